namespace Keel.Core.Errors;

/// <summary>keel could have gone on, and did not, because it would not have been safe (exit code 4).</summary>
public sealed class RefusedException(string what, string why, string todo) : KeelException(what, why, todo)
{
    /// <inheritdoc/>
    public override int ExitCode => 4;
}
