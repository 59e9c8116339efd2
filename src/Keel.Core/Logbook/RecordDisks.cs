using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Machines;

namespace Keel.Core.Logbook;

/// <summary>Finds the disks of a record where they are now: names of devices change at a restart.</summary>
/// <param name="terms">How disks are opened.</param>
public sealed class RecordDisks(DiskTerms terms) : IDisposable
{
    private readonly List<MachineDisk> opened = [];

    /// <summary>Each of the record's disks that is wanted and here, beside what it is now.</summary>
    /// <param name="record">The record.</param>
    /// <param name="named">The disks that the technician named.</param>
    /// <param name="wanted">Which states are looked for.</param>
    /// <param name="alone">Only disks that were named.</param>
    public IReadOnlyList<RecordFit> Find(
        RepairRecord record,
        IReadOnlyList<DiskSeen> named,
        Func<RecordState, bool> wanted,
        bool alone)
    {
        var fits = new List<RecordFit>();
        for (var part = 0; part < record.Document.Disks.Count; part++)
        {
            if (record.Document.Disks[part].Ranges.Count == 0 || !wanted(record.Parts[part])) continue;
            var free = named.Where(disk => fits.TrueForAll(fit => fit.Disk.Path != disk.Path));
            var fit = Best(record, part, free)
                ?? (alone
                    ? null
                    : Elsewhere(record, part, [.. fits.Select(known => known.Disk.Path), .. named.Select(disk => disk.Path)]));
            if (fit is not null) fits.Add(fit);
        }

        return fits;
    }

    /// <inheritdoc/>
    public void Dispose() => opened.ForEach(disk => disk.Dispose());

    private static RecordFit? Best(RepairRecord record, int part, IEnumerable<DiskSeen> disks) => disks
        .Select(disk => new RecordFit(record, part, disk))
        .Where(fit =>
            fit.DiskMatch != DiskMatch.Other
                && (fit.IsSure || record.Document.Disks.Count == 1 || fit.HasPath || fit.HasIdentity || fit.IsKnownToStand()))
        .OrderByDescending(fit => fit.IsSure).ThenByDescending(fit => fit.HasIdentity).ThenByDescending(fit => fit.HasPath)
        .FirstOrDefault();

    /// <summary>Where it was, or else wherever it is on this computer; only where there is no doubt about it.</summary>
    private RecordFit? Elsewhere(RepairRecord record, int part, IReadOnlyList<string> taken)
    {
        foreach (var path in DiskPath
            .WholeDisks()
            .Prepend(record.Document.Disks[part].Path)
            .Distinct()
            .Where(path => !taken.Contains(path)))
        {
            if (TryOpen(path) is not { } disk) continue;
            var fit = new RecordFit(record, part, DiskSeen.Of(disk));
            if (fit.IsSure || (fit.DiskMatch == DiskMatch.Possible && !fit.IsQuestionable && fit.IsKnownToStand())) return fit;
        }

        return null;
    }

    private MachineDisk? TryOpen(string path)
    {
        try
        {
            var disk = MachineDisk.Open(path, terms);
            opened.Add(disk);
            return disk;
        }
        catch (KeelException)
        {
            return null;
        }
    }
}
