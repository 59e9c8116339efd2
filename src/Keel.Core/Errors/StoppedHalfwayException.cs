namespace Keel.Core.Errors;

/// <summary>Writing began and did not end: the disk is between two states until the logbook completes either (exit code 5).</summary>
public sealed class StoppedHalfwayException(string what, string why, string todo, Exception? inner = null)
    : KeelException(what, why, todo, inner)
{
    public override int ExitCode => 5;
}
