using Keel.Core.Errors;

namespace Keel.Core.Logbook;

/// <summary>A record of the logbook is not what was written (exit code 3).</summary>
/// <param name="id">The record's id.</param>
/// <param name="reason">In a few words.</param>
/// <param name="isNewer">Whether a newer keel wrote it.</param>
/// <param name="inner">The failure behind it.</param>
public sealed class DamagedRecordException(
    string id,
    string reason,
    bool isNewer = false,
    Exception? inner = null) : KeelException(
    isNewer
        ? $"The logbook's record {id} was written by a newer keel."
        : $"The logbook's record {id} is damaged, and can't be used.",
    $"The reason: {reason}.",
    isNewer
        ? "Use that keel to take it back."
        : "Bring the logbook folder back from a copy; without it this repair can't be undone.",
    inner)
{
    /// <inheritdoc/>
    public override int ExitCode => 3;

    /// <summary>The record as a list of the logbook shows it.</summary>
    public UnusableRecord ToUnusable() => new(id, isNewer, reason);
}
