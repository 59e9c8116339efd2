namespace Keel.Core.Errors;

/// <summary>A disk, volume or file can't be read or written (exit code 3).</summary>
public sealed class UnreadableException(string what, string why, string todo, Exception? inner = null)
    : KeelException(what, why, todo, inner)
{
    /// <inheritdoc/>
    public override int ExitCode => 3;

    /// <summary>Whether the disk gave everything, and what it gave makes no sense: another copy of the file may help.</summary>
    public bool IsContentDamaged { get; init; }
}
