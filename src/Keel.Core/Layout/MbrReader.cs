using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Facts;

namespace Keel.Core.Layout;

/// <summary>Reads the old partition table with its chain of logical partitions.</summary>
internal static class MbrReader
{
    private const int FirstLogicalNumber = 5;
    private const int LogicalLimit = 128;

    internal static readonly LayoutProblem FirstUnreadable = LayoutProblem.Of(LayoutProblemKind.Unreadable, "first-unreadable");

    /// <summary>The layout that the old table gives.</summary>
    /// <param name="disk">The disk.</param>
    /// <param name="record">The first sector; null where the disk did not give it.</param>
    /// <param name="isHybrid">Whether a GPT counts beside it, so that what protects that is no partition.</param>
    public static DiskLayout Read(IReadableBlocks disk, MasterBootRecord? record, bool isHybrid)
    {
        if (record is null)
            return new DiskLayout(PartitionScheme.None, DiskIdentity.None, disk.SectorBytes, [], [FirstUnreadable]);
        if (!IsTable(record))
        {
            var problem = LayoutProblem.Of(LayoutProblemKind.NoTable, IsVolume(record) ? "is-volume" : "none");
            return new DiskLayout(PartitionScheme.None, DiskIdentity.None, disk.SectorBytes, [], [problem]);
        }

        var partitions = new List<Partition>();
        var problems = new List<LayoutProblem>();
        if (!record.HasMark) problems.Add(LayoutProblem.Of(LayoutProblemKind.MarkMissing, "mark-missing"));
        for (var index = 0; index < MasterBootRecord.SlotCount; index++)
        {
            var slot = record.Slot(index);
            if (slot.Mark is not (0 or PartitionSlot.ActiveMark))
            {
                problems.Add(
                    LayoutProblem.Of(
                        LayoutProblemKind.BadActiveMark,
                        "bad-mark",
                        Fact.Slot.Is(index + 1),
                        Fact.Mark.Is($"{slot.Mark:x2}")));
            }

            if (isHybrid && slot.Type == PartitionTypes.Protective) continue;
            if (slot.IsUsed && slot.SectorCount > 0)
                partitions.Add(ToPartition(index + 1, slot, slot.FirstSector, disk.SectorBytes, logical: false));
        }

        foreach (var extended in partitions.Where(partition => partition.IsExtended).ToList())
            ReadLogical(disk, extended, partitions, problems);
        problems.AddRange(ActiveMarks(partitions));
        problems.AddRange(DiskLayout.Misplaced(partitions, disk.LengthBytes));
        return new DiskLayout(PartitionScheme.Mbr, DiskIdentity.OfMbr(record.Signature), disk.SectorBytes, partitions, problems);
    }

    /// <summary>
    /// A table, and not the first sector of a file system or random bytes: slots plausible, at least one in use.
    /// </summary>
    private static bool IsTable(MasterBootRecord record)
    {
        var used = 0;
        var odd = 0;
        for (var index = 0; index < MasterBootRecord.SlotCount; index++)
        {
            var slot = record.Slot(index);
            if (slot.IsUsed) used++;
            if (slot.Mark is not (0 or PartitionSlot.ActiveMark)
                || (slot.IsUsed && (slot.SectorCount == 0 || slot.FirstSector == 0)))
            {
                odd++;
            }
        }

        return used > 0 && (record.HasMark ? odd < used || odd == 0 : odd == 0);
    }

    /// <summary>Whether the name of a file system stands where boot sectors have one.</summary>
    private static bool IsVolume(MasterBootRecord record) =>
        record.Code[3..].StartsWith("NTFS    "u8)
            || record.Code[3..].StartsWith("EXFAT   "u8)
            || record.Code[0x36..].StartsWith("FAT"u8)
            || record.Code[0x52..].StartsWith("FAT32"u8);

    private static void ReadLogical(
        IReadableBlocks disk,
        Partition extended,
        List<Partition> partitions,
        List<LayoutProblem> problems)
    {
        var seen = new HashSet<long>();
        var firstSector = extended.Range.Start / disk.SectorBytes;
        var at = firstSector;
        var number = Math.Max(FirstLogicalNumber, partitions.Max(partition => partition.Number) + 1);
        while (true)
        {
            if (!seen.Add(at) || seen.Count > LogicalLimit)
            {
                problems.Add(LayoutProblem.Of(LayoutProblemKind.LogicalChainDamaged, "logical-circle", Fact.Sector.Is(at)));
                return;
            }

            byte[]? sector;
            try
            {
                sector = disk.TryRead(at * disk.SectorBytes, MasterBootRecord.Size);
            }
            catch (ReadFailedException)
            {
                problems.Add(LayoutProblem.Of(LayoutProblemKind.LogicalUnreadable, "logical-unreadable", Fact.Sector.Is(at)));
                return;
            }

            var link = sector is null ? null : new MasterBootRecord(sector);
            if (link is not { HasMark: true })
            {
                problems.Add(LayoutProblem.Of(LayoutProblemKind.LogicalChainDamaged, "logical-ends", Fact.Sector.Is(at)));
                return;
            }

            var slot = link.Slot(0);
            if (slot.IsUsed && slot.SectorCount > 0)
                partitions.Add(ToPartition(number++, slot, at + slot.FirstSector, disk.SectorBytes, logical: true));
            var next = link.Slot(1);
            if (!next.IsExtended) return;
            at = firstSector + next.FirstSector;
        }
    }

    private static Partition ToPartition(int number, PartitionSlot slot, long firstSector, int sectorBytes, bool logical) => new(
        number,
        new ByteRange(firstSector * sectorBytes, (long)slot.SectorCount * sectorBytes),
        slot.Type,
        GptType: default,
        Id: default,
        slot.Active,
        logical,
        Name: "");

    private static IEnumerable<LayoutProblem> ActiveMarks(List<Partition> partitions)
    {
        var active =
            partitions
                .Where(partition => partition is { Active: true, Logical: false })
                .Select(partition => partition.Number)
                .ToList();
        if (active.Count == 0) yield return LayoutProblem.Of(LayoutProblemKind.NoneActive, "none-active");
        if (active.Count > 1)
            yield return LayoutProblem.Of(LayoutProblemKind.TwoActive, "two-active", Fact.Partitions.Is([.. active]));
    }
}
