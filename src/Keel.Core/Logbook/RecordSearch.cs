namespace Keel.Core.Logbook;

/// <summary>
/// Which record of a logbook belongs to a disk: by all that is known of the disk, and by the bytes that the repair wrote.
/// </summary>
public static class RecordSearch
{
    /// <summary>The record of a repair of this disk that was cut off; null where there is none.</summary>
    public static RecordFit? Pending(LogbookContents logbook, DiskSeen disk) => Fits(logbook, disk)
        .FirstOrDefault(fit =>
            RepairRecord.IsBetween(fit.State)
                && IsCutOffHere(fit));

    /// <summary>
    /// A disk with the identity of the one that was cut off may be another one: then something of the repair must stand on it.
    /// Only the same device or file, or one that is where it was, may be cut off before the first byte.
    /// </summary>
    private static bool IsCutOffHere(RecordFit fit) => fit.DiskMatch == DiskMatch.Sure
        || (fit.IsKnownToStand()
            && ((fit.HasPath && fit.HasIdentity && !fit.IsOtherFile)
                || ((fit.HasPath || fit.HasIdentity) && fit.BeginsToStand())));

    /// <summary>The record of a repair of firmware variables that was cut off; null where there is none.</summary>
    public static RepairRecord? Pending(LogbookContents logbook, string variablesFolder) =>
        logbook.Records.LastOrDefault(record =>
            record.VariablesPart is { } part
                && record.Document.Variables!.Folder == variablesFolder
                && RepairRecord.IsBetween(record.Parts[part]));

    /// <summary>The newest repair that can be taken back on this disk.</summary>
    public static UndoSearch Newest(LogbookContents logbook, DiskSeen disk)
    {
        if (Pending(logbook, disk) is { } pending) return new UndoSearch(pending, null, null);
        RecordFit? overwritten = null, elsewhere = null;
        foreach (var fit in Fits(
            logbook,
            disk).Where(fit => fit.State == RecordState.Done && fit.Record.Document.TakesBack is null))
        {
            if (IsTakenBack(logbook, fit)) continue;
            if (!fit.IsKnownToStand()) overwritten ??= fit.IsSure ? fit : null;
            else if (fit.IsElsewhere) elsewhere ??= fit;
            else return new UndoSearch(fit, overwritten, elsewhere);
        }

        return new UndoSearch(null, overwritten, elsewhere);
    }

    /// <summary>The repairs of a disk that were not taken back, the newest first.</summary>
    public static IReadOnlyList<RecordFit> NotTakenBack(LogbookContents logbook, DiskSeen disk) =>
    [
        .. OfThisDisk(logbook, disk).Where(fit =>
            fit.State == RecordState.Done && fit.Record.Document.TakesBack is null && !IsTakenBack(logbook, fit))
    ];

    /// <summary>The part of one record that fits a disk best; null where none can be it.</summary>
    public static RecordFit? Of(RepairRecord record, DiskSeen disk) => Fits(record, disk)
        .Where(fit => fit.DiskMatch != DiskMatch.Other)
        .OrderByDescending(fit => fit.IsSure).ThenByDescending(fit => fit.HasIdentity).ThenByDescending(fit => fit.HasPath)
        .FirstOrDefault();

    /// <summary>The records of repairs of this very disk, oldest first.</summary>
    public static IReadOnlyList<RepairRecord> About(LogbookContents logbook, DiskSeen disk) =>
        [.. OfThisDisk(logbook, disk).Select(fit => fit.Record).Distinct().Reverse()];

    /// <summary>
    /// The records of other disks that share signature, GUIDs or serial number with this one, as those from one master do.
    /// </summary>
    public static IReadOnlyList<RepairRecord> AboutTwins(LogbookContents logbook, DiskSeen disk)
    {
        var own = OfThisDisk(logbook, disk).Select(fit => fit.Record).ToHashSet();
        return [.. Fits(logbook, disk).Where(fit => fit.HasIdentity).Select(fit => fit.Record).Distinct()
            .Where(record => !own.Contains(record)).Reverse()];
    }

    /// <summary>What was done to this very disk, the newest first.</summary>
    private static List<RecordFit> OfThisDisk(LogbookContents logbook, DiskSeen disk)
    {
        var found = new List<RecordFit>();
        foreach (var fit in Fits(logbook, disk))
        {
            // What was taken back left nothing that an older one could have been covered by.
            if (fit.IsOfThisDisk([.. found.Where(other => other.State == RecordState.Done)])) found.Add(fit);
        }

        return found;
    }

    /// <summary>
    /// A take-back of a changed or questionable disk is a record of its own; what it took back no longer stands there.
    /// </summary>
    private static bool IsTakenBack(LogbookContents logbook, RecordFit fit) => logbook.Records.Any(record =>
        record.Document.TakesBack == fit.Record.Document.Id
            && Of(record, fit.Disk) is { State: RecordState.Done } own
            && (own.IsSure || own.IsKnownToStand()));

    /// <summary>Every part of every record that could be this disk, the newest first.</summary>
    private static IEnumerable<RecordFit> Fits(LogbookContents logbook, DiskSeen disk) =>
        logbook.Records.Reverse().SelectMany(record => Fits(record, disk)).Where(fit => fit.DiskMatch != DiskMatch.Other);

    private static IEnumerable<RecordFit> Fits(RepairRecord record, DiskSeen disk) =>
        record.Document.Disks
            .Select((_, part) => new RecordFit(record, part, disk))
            .Where(fit => fit.Recorded.Ranges.Count > 0 || IsBesideVariables(fit));

    /// <summary>A repair that wrote only the firmware's variables of the disk's machine.</summary>
    private static bool IsBesideVariables(RecordFit fit) =>
        fit.Record.VariablesPart is not null
            && fit.Record.Document.Disks.All(disk => disk.Ranges.Count == 0)
            && (fit.IsSure || (fit.HasPath && fit.HasIdentity));
}
