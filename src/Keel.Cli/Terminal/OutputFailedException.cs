namespace Keel.Cli.Terminal;

/// <summary>Standard output did not take what was printed.</summary>
internal sealed class OutputFailedException(IOException inner) : Exception(inner.Message, inner);
