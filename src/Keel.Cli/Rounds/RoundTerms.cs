namespace Keel.Cli.Rounds;

/// <summary>How a round is done.</summary>
/// <param name="Jobs">How many targets are looked at side by side.</param>
/// <param name="MendsSafely">Whether plans that lose nothing are carried out.</param>
/// <param name="Logbook">The folder of the logbook, as it was named; null for the usual one.</param>
/// <param name="Patience">How long one target may take.</param>
internal sealed record RoundTerms(int Jobs, bool MendsSafely, string? Logbook, TimeSpan Patience);
