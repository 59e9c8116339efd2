using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Facts;

namespace Keel.Core.Layout;

/// <summary>How a disk is divided, and what is wrong with that.</summary>
public sealed record DiskLayout(
    PartitionScheme Scheme,
    DiskIdentity Identity,
    int SectorBytes,
    IReadOnlyList<Partition> Partitions,
    IReadOnlyList<LayoutProblem> Problems)
{
    /// <summary>The active partitions, in the order of the table; a sound BIOS disk has one.</summary>
    public IEnumerable<Partition> Active => Partitions.Where(partition => partition.Active);

    /// <summary>Whether there is a problem of that kind.</summary>
    public bool Has(LayoutProblemKind kind) => Problems.Any(problem => problem.Kind == kind);

    /// <summary>
    /// Reads the layout of a disk, whatever state it is in. Bounded: at most 128 logical partitions, at most 1024 GPT entries.
    /// </summary>
    public static DiskLayout Read(IReadableBlocks disk)
    {
        var record = FirstSector(disk);
        if (record is not null && ProtectsNothing(disk, record)) return MbrReader.Read(disk, record, isHybrid: false);
        if (record is not { IsHybrid: true } && GptReader.TryRead(disk, record) is { } gpt) return gpt;
        var layout = MbrReader.Read(disk, record, record is { IsHybrid: true });
        return layout.Scheme == PartitionScheme.Mbr && record is { IsHybrid: false } && GptCopy.Read(disk, 1).IsSound
            ? layout with
            {
                Problems = [.. layout.Problems, LayoutProblem.Of(LayoutProblemKind.GptBehindTable, "gpt-behind")]
            }
            : layout;
    }

    /// <summary>
    /// Whether a slot of the old table has the type that protects a GPT, and there is none: the slot begins where a volume does,
    /// and neither end of the disk has a header. Then it is a partition with one wrong byte.
    /// </summary>
    private static bool ProtectsNothing(IReadableBlocks disk, MasterBootRecord record)
    {
        const int leastSectors = 3, protectiveStart = 1;
        var protective = Enumerable.Range(0, MasterBootRecord.SlotCount)
            .Select(record.Slot)
            .Where(slot => slot.Type == PartitionTypes.Protective)
            .ToList();
        if (!record.HasMark || protective.Count == 0 || disk.LengthBytes < leastSectors * (long)disk.SectorBytes) return false;
        if (protective.Exists(slot => slot.FirstSector <= protectiveStart)) return false;
        GptCopy[] copies = [GptCopy.Read(disk, 1), GptCopy.Read(disk, (disk.LengthBytes / disk.SectorBytes) - 1)];
        return Array.TrueForAll(copies, copy => copy is { Header: null, IsUnreadable: false });
    }

    /// <summary>The master boot record; null where the disk does not give it.</summary>
    private static MasterBootRecord? FirstSector(IReadableBlocks disk)
    {
        try
        {
            return disk.TryRead(0, MasterBootRecord.Size) is { } sector
                ? new MasterBootRecord(sector)
                : new MasterBootRecord(new byte[MasterBootRecord.Size]);
        }
        catch (ReadFailedException)
        {
            return null;
        }
    }

    /// <summary>Adds overlaps and partitions beyond the end, which mean the same in both schemes.</summary>
    internal static IEnumerable<LayoutProblem> Misplaced(IReadOnlyList<Partition> partitions, long diskBytes)
    {
        var solid = partitions.Where(partition => !partition.IsExtended).OrderBy(partition => partition.Range.Start).ToList();
        foreach (var partition in partitions)
        {
            if (partition.Range.End > diskBytes)
            {
                yield return LayoutProblem.Of(
                    LayoutProblemKind.PastEnd,
                    "past-end",
                    Fact.Partition.Is(partition.Number),
                    Fact.EndByte.Is(partition.Range.End),
                    Fact.DiskBytes.Is(diskBytes));
            }
        }

        // A hybrid table's protective slot covers what the GPT itself takes.
        solid.RemoveAll(partition => partition.MbrType == PartitionTypes.Protective);
        var furthest = solid.FirstOrDefault();
        foreach (var partition in solid.Skip(1))
        {
            if (partition.Range.Start < furthest!.Range.End)
            {
                yield return LayoutProblem.Of(
                    LayoutProblemKind.Overlap,
                    "overlap",
                    Fact.Partition.Is(partition.Number),
                    Fact.AtByte.Is(partition.Range.Start),
                    Fact.OtherPartition.Is(furthest.Number),
                    Fact.EndByte.Is(furthest.Range.End));
            }

            if (partition.Range.End > furthest.Range.End) furthest = partition;
        }
    }
}
