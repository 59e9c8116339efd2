using Keel.Core.Blocks;

namespace Keel.Core.Layout;

/// <summary>
/// A link of the chain of logical partitions: a sector with a table of its own, before the partition that it names.
/// </summary>
/// <param name="Sector">The sector, from the start of the disk.</param>
/// <param name="First">The first sector of the partition.</param>
/// <param name="Count">How many sectors the partition has.</param>
/// <param name="Type">Its type.</param>
internal readonly record struct LogicalLink(long Sector, long First, long Count, byte Type)
{
    /// <summary>How far before its partition a link stands, in sectors: a track, a MiB, and what other programs take.</summary>
    private static readonly int[] UsualDistances = [2048, 63, 1, 2, 64, 128, 256, 62, 2047];

    /// <summary>The sector after its partition.</summary>
    public long EndSector => First + Count;

    /// <summary>Further back no link is looked for.</summary>
    private const int FurthestSectors = 8192;

    /// <summary>The link that names a partition which begins at a sector; null where none stands in the 8192 before it.</summary>
    public static LogicalLink? Before(IReadableBlocks disk, long firstSector)
    {
        foreach (var distance in UsualDistances)
        {
            if (At(disk, firstSector - distance) is { } link && link.First == firstSector) return link;
        }

        var from = Math.Max(1, firstSector - FurthestSectors);
        var count = (int)(firstSector - from);
        if (count <= 0 || disk.TryReadAnyway(from * disk.SectorBytes, count * disk.SectorBytes) is not { } run) return null;
        for (var index = count - 1; index >= 0; index--)
        {
            var at = index * disk.SectorBytes;
            if (Read(run.AsSpan(at, MasterBootRecord.Size), from + index) is { } link && link.First == firstSector) return link;
        }

        return null;
    }

    /// <summary>The link that stands in a sector; null where none does.</summary>
    public static LogicalLink? At(IReadableBlocks disk, long sector)
    {
        if (sector < 1 || disk.TryReadAnyway(sector * disk.SectorBytes, MasterBootRecord.Size) is not { } bytes) return null;
        return Read(bytes, sector);
    }

    private static LogicalLink? Read(ReadOnlySpan<byte> bytes, long sector)
    {
        if (bytes[^2] != 0x55 || bytes[^1] != 0xAA) return null;
        var record = new MasterBootRecord(bytes);
        var slot = record.Slot(0);
        var isLink = record.HasMark
            && slot is { IsUsed: true, IsExtended: false, FirstSector: > 0, SectorCount: > 0 }
            && slot.Mark is 0 or PartitionSlot.ActiveMark
            && record.Slot(1) is { IsUsed: false } or { IsExtended: true }
            && !record.Slot(2).IsUsed
            && !record.Slot(3).IsUsed;
        return isLink ? new LogicalLink(sector, sector + slot.FirstSector, slot.SectorCount, slot.Type) : null;
    }

    /// <summary>Where the next link would stand, as this one's sector says; null where it is the last.</summary>
    /// <param name="disk">The disk.</param>
    /// <param name="extendedSector">Where the extended partition begins.</param>
    public long? NextSector(IReadableBlocks disk, long extendedSector) =>
        disk.TryReadAnyway(Sector * disk.SectorBytes, MasterBootRecord.Size) is { } bytes
            && new MasterBootRecord(bytes).Slot(1) is { IsExtended: true } next
            ? extendedSector + next.FirstSector
            : null;

    /// <summary>Writes the links of a chain; what else stands in their sectors stays.</summary>
    /// <param name="disk">The disk.</param>
    /// <param name="links">In the order of the disk; the first stands where the extended partition begins.</param>
    public static void WriteChain(IWritableBlocks disk, IReadOnlyList<LogicalLink> links)
    {
        foreach (var (link, index) in links.Select((link, index) => (link, index)))
        {
            var at = link.Sector * disk.SectorBytes;
            var record = new MasterBootRecord(disk.ReadBytes(at, MasterBootRecord.Size)) { HasMark = true };
            record.SetSlot(0, new PartitionSlot(0, link.Type, (uint)(link.First - link.Sector), (uint)link.Count));
            for (var slot = 1; slot < MasterBootRecord.SlotCount; slot++) record.ClearSlot(slot);
            if (index + 1 < links.Count)
            {
                var next = links[index + 1];
                record.SetSlot(1, new PartitionSlot(
                    0,
                    PartitionTypes.Extended,
                    (uint)(next.Sector - links[0].Sector),
                    (uint)(next.EndSector - next.Sector)));
            }

            disk.Write(at, record.ToBytes());
        }
    }
}
