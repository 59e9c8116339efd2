using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Layout;
using Keel.Core.Volumes.Fat;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.Rescue;

/// <summary>Writes a table as it was read from what stands on the disk; no byte of a volume is touched.</summary>
internal static class TableWriter
{
    /// <summary>Writes it; false where there is no room for it.</summary>
    public static bool Write(IWritableBlocks disk, TableReading reading) => reading.Scheme == PartitionScheme.Gpt
        ? WriteGpt(disk, reading)
        : WriteMbr(disk, reading);

    private static bool WriteGpt(IWritableBlocks disk, TableReading reading)
    {
        var partitions = reading.Partitions.Select(partition => partition.Partition).ToList();
        if (partitions.Exists(partition => partition.Number > GptHeader.UsualEntryCount)) return false;
        if (reading.Partitions.Any(partition => partition.Origin == PartitionOrigin.Listed))
        {
            return reading.New.All(added => GptEditor.Add(
                disk,
                added.Partition.GptType,
                added.Partition.Id,
                added.Partition.Name,
                Sectors(added.Partition, disk.SectorBytes)) == GptEditResult.Done);
        }

        return GptEditor.WriteNew(disk, reading.Identity.Guid, partitions) == GptEditResult.Done;
    }

    private static SectorRange Sectors(Partition partition, int sectorBytes) =>
        new(partition.Range.Start / sectorBytes, (partition.Range.End / sectorBytes) - 1);

    private static bool WriteMbr(IWritableBlocks disk, TableReading reading)
    {
        var primary = reading.Partitions.Where(partition => !partition.Partition.Logical).ToList();
        if (primary.Exists(partition => partition.Partition.Number is < 1 or > MasterBootRecord.SlotCount)) return false;
        if (reading.Partitions.Any(partition => partition.Partition.Range.End / disk.SectorBytes > uint.MaxValue)) return false;
        var writesChain = reading.New.Any(partition => partition.LinkSector is not null || partition.Partition.IsExtended);
        if (writesChain && reading.Partitions.Any(partition => partition.Partition.Logical && partition.LinkSector is null))
            return false;
        var record = new MasterBootRecord(disk.ReadBytes(0, MasterBootRecord.Size));

        // What stands in front of a table that never was one is no code of this disk.
        if (IsVolumes(record.ToBytes()) || (!record.HasMark && CodeRecognizer.OfMbr(record.Code).Owner == CodeOwner.Unknown))
            record.SetCode([]);
        record.HasMark = true;
        record.Signature = reading.Identity.Signature;
        for (var index = 0; index < MasterBootRecord.SlotCount; index++)
        {
            if (primary.Find(partition => partition.Partition.Number == index + 1) is not { } partition) record.ClearSlot(index);
            else if (partition.Origin != PartitionOrigin.Listed)
                record.SetSlot(index, SlotOf(partition.Partition, disk.SectorBytes));
        }

        disk.Write(0, record.ToBytes());
        if (writesChain) LogicalLink.WriteChain(disk, reading.LinksOf(disk.SectorBytes));
        return true;
    }

    private static bool IsVolumes(byte[] sector) =>
        NtfsBootSector.TryRead(sector) is not null || FatBootSector.TryRead(sector) is not null;

    private static PartitionSlot SlotOf(Partition partition, int sectorBytes) => new(
        partition.Active ? PartitionSlot.ActiveMark : (byte)0,
        partition.MbrType,
        (uint)(partition.Range.Start / sectorBytes),
        (uint)(partition.Range.Length / sectorBytes));
}
