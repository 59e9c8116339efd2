namespace Keel.Core.History;

/// <summary>
/// What can be gathered from what a machine remembers: when it started well last, what changed then, and what stopped it since. A
/// judgement over history, never proof.
/// </summary>
/// <param name="LastGoodStart">The last start that came so far that services ran; null where none is remembered.</param>
/// <param name="Changes">What was installed after that start, or in the day before the trouble began; the oldest first.</param>
/// <param name="Stops">Stop codes noted since, the latest first.</param>
/// <param name="TroubleSince">When the first stop or failed start since was noted; null where none was.</param>
/// <param name="DiskErrors">Errors of disks in the month before the newest item.</param>
/// <param name="LastStartFailed">Whether the boot status record says that the last start did not come to its end.</param>
/// <param name="UpdateHalfDone">The item that shows an update left unfinished by failed starts; null where there is none.</param>
public sealed record HistoryJudgement(
    DateTimeOffset? LastGoodStart,
    IReadOnlyList<HistoryItem> Changes,
    IReadOnlyList<StopSummary> Stops,
    DateTimeOffset? TroubleSince,
    IReadOnlyList<HistoryItem> DiskErrors,
    bool LastStartFailed,
    HistoryItem? UpdateHalfDone)
{
    /// <summary>Whether anything went wrong since the last good start.</summary>
    public bool HasTrouble => Stops.Count > 0 || TroubleSince is not null || LastStartFailed;

    /// <summary>The stop that came last since the last good start; null where none was noted.</summary>
    public StopSummary? LatestStop => Stops.Count > 0 ? Stops[0] : null;

    /// <summary>The change that brought a driver or service; null where none did.</summary>
    public HistoryItem? ChangeOf(string driver) => Changes.FirstOrDefault(change =>
        change.Driver is { } name && name.Equals(driver, StringComparison.OrdinalIgnoreCase));
}
