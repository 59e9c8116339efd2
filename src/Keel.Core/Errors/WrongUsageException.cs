namespace Keel.Core.Errors;

/// <summary>The caller asked for something that makes no sense as asked (exit code 2).</summary>
public sealed class WrongUsageException(string what, string why, string todo) : KeelException(what, why, todo)
{
    /// <inheritdoc/>
    public override int ExitCode => 2;
}
