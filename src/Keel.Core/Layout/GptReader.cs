using Keel.Core.Blocks;
using Keel.Core.Facts;

namespace Keel.Core.Layout;

/// <summary>Reads a GUID partition table from whichever copy is sound.</summary>
internal static class GptReader
{
    /// <summary>The layout, or nothing where the disk has no trace of a GPT.</summary>
    /// <param name="disk">The disk.</param>
    /// <param name="record">The first sector; null where the disk did not give it.</param>
    public static DiskLayout? TryRead(IReadableBlocks disk, MasterBootRecord? record)
    {
        var isProtective = record is null
            || record is { HasMark: true }
                && Enumerable
                    .Range(0, MasterBootRecord.SlotCount)
                    .Any(index => record.Slot(index).Type == PartitionTypes.Protective);
        if (disk.LengthBytes < 3L * disk.SectorBytes) return null;
        var primary = GptCopy.Read(disk, 1);
        if (primary.Header is null
            && (record is null ? !GptCopy.Read(disk, (disk.LengthBytes / disk.SectorBytes) - 1).IsSound : !isProtective))
        {
            return null;
        }

        var lastSector = (disk.LengthBytes / disk.SectorBytes) - 1;
        var backup = GptCopy.Read(disk, lastSector);
        if (!isProtective && (!primary.IsSound || HasOtherTable(record))) return null;
        var problems = new List<LayoutProblem>();
        if (record is null) problems.Add(MbrReader.FirstUnreadable);
        if (!isProtective) problems.Add(LayoutProblem.Of(LayoutProblemKind.GptProtectiveMissing, "not-protected"));
        backup = FindMisplaced(disk, primary, backup, lastSector, problems);
        var chosen = primary.IsSound ? primary : backup;
        if (!chosen.IsSound)
        {
            var kind = primary.IsUnreadable || backup.IsUnreadable
                ? LayoutProblemKind.Unreadable
                : LayoutProblemKind.GptBothDamaged;
            problems.Add(LayoutProblem.Of(kind, "copy", Fact.Said.Is($"{primary.Problem}; {backup.Problem}")));
            return new DiskLayout(
                PartitionScheme.Gpt,
                DiskIdentity.OfGpt(primary.Header?.DiskGuid ?? default),
                disk.SectorBytes,
                [],
                problems);
        }

        Compare(primary, backup, problems);
        var partitions = Partitions(chosen, disk.SectorBytes);
        problems.AddRange(DiskLayout.Misplaced(partitions, disk.LengthBytes));
        return new DiskLayout(
            PartitionScheme.Gpt,
            DiskIdentity.OfGpt(chosen.Header!.DiskGuid),
            disk.SectorBytes,
            partitions,
            problems);
    }

    /// <summary>A table of the old kind in sector 0 means that the GPT behind it is a left-over.</summary>
    private static bool HasOtherTable(MasterBootRecord? record) =>
        record is { HasMark: true }
            && Enumerable
                .Range(0, MasterBootRecord.SlotCount)
                .Any(index => record.Slot(index) is { IsUsed: true, SectorCount: > 0 });

    /// <summary>A grown disk has its backup where the old end was.</summary>
    private static GptCopy FindMisplaced(
        IReadableBlocks disk,
        GptCopy primary,
        GptCopy backup,
        long lastSector,
        List<LayoutProblem> problems)
    {
        if (backup.IsSound || primary.Header is not { CrcMatches: true } header || header.OtherSector == lastSector)
            return backup;
        var elsewhere = header.OtherSector > 0 && header.OtherSector < lastSector
            ? GptCopy.Read(disk, header.OtherSector)
            : backup;
        if (!elsewhere.IsSound) return backup;
        problems.Add(LayoutProblem.Of(
            LayoutProblemKind.GptBackupMisplaced,
            "backup-misplaced",
            Fact.Sector.Is(header.OtherSector),
            Fact.LastSector.Is(lastSector)));
        return elsewhere;
    }

    private static void Compare(GptCopy primary, GptCopy backup, List<LayoutProblem> problems)
    {
        if (!primary.IsSound)
            problems.Add(Damaged(primary, LayoutProblemKind.GptPrimaryUnreadable, LayoutProblemKind.GptPrimaryDamaged));
        else if (!backup.IsSound)
            problems.Add(Damaged(backup, LayoutProblemKind.GptBackupUnreadable, LayoutProblemKind.GptBackupDamaged));
        else if (primary.Header!.DiskGuid != backup.Header!.DiskGuid || !primary.Entries.AsSpan().SequenceEqual(backup.Entries))
            problems.Add(LayoutProblem.Of(LayoutProblemKind.GptCopiesDiffer, "copies-differ"));
    }

    private static LayoutProblem Damaged(GptCopy copy, LayoutProblemKind unreadable, LayoutProblemKind damaged) =>
        LayoutProblem.Of(copy.IsUnreadable ? unreadable : damaged, "copy", Fact.Said.Is(copy.Problem!));

    private static List<Partition> Partitions(GptCopy copy, int sectorBytes)
    {
        var partitions = new List<Partition>();
        var size = (int)copy.Header!.EntryBytes;
        for (var index = 0; index < copy.Header.EntryCount; index++)
        {
            var entry = copy.Entries.At<GptEntryRecord>(index * size);
            var (first, last) = (entry.FirstSector, entry.LastSector);
            if (!entry.IsUsed || first < 0 || last < first || last > long.MaxValue / sectorBytes / 2) continue;
            partitions.Add(new Partition(
                index + 1,
                new ByteRange(first * sectorBytes, (last - first + 1) * sectorBytes),
                MbrType: 0,
                entry.Type,
                entry.Id,
                Active: false,
                Logical: false,
                entry.Name.ToString())
            { Attributes = entry.Attributes });
        }

        return partitions;
    }
}
