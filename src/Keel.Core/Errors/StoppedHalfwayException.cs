namespace Keel.Core.Errors;

/// <summary>
/// Writing began and did not end: the disk is between two states until the logbook completes either (exit code 5).
/// </summary>
public sealed class StoppedHalfwayException(string what, string why, string todo, Exception? inner = null)
    : KeelException(what, why, todo, inner)
{
    /// <summary>The exit code of everything that meets a repair that was cut off.</summary>
    public const int Code = 5;

    /// <inheritdoc/>
    public override int ExitCode => Code;
}
