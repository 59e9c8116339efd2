using Keel.Core.Blocks;
using Keel.Core.Layout;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;

namespace Keel.Core.Sticks;

/// <summary>
/// The partition for logbook and reports on a recovery medium: FAT, labelled KEELLOG, in what the image leaves free. Windows
/// reads it too.
/// </summary>
public static class LogPartition
{
    /// <summary>The label by which the rescue system finds it.</summary>
    public const string Label = "KEELLOG";

    private const long MiB = 1024 * 1024;
    private const byte Fat32Type = 0x0C;

    /// <summary>Less than this is not worth a partition, in bytes.</summary>
    private const long LeastBytes = 16 * MiB;

    /// <summary>FAT32 counts its sectors in 32 bits, in bytes.</summary>
    private const long MostBytes = 2L * 1024 * 1024 * MiB - MiB;

    /// <summary>The partition on a stick, as far as its table names one with that label; null where there is none.</summary>
    public static Partition? Find(IWritableBlocks stick, DiskLayout layout) =>
        layout.Partitions.FirstOrDefault(partition => LabelOf(stick, layout, partition) == Label);

    private static string? LabelOf(IWritableBlocks stick, DiskLayout layout, Partition partition)
    {
        using var volume = new DiskVolume("", stick, layout, partition);
        return volume.Kind is FileSystemKind.Fat12 or FileSystemKind.Fat16 or FileSystemKind.Fat32 ? volume.Files?.Label : null;
    }

    /// <summary>Adds it behind the image; gives it, or null where there is no room, or no slot in the table.</summary>
    /// <param name="stick">The stick, with the image on it.</param>
    /// <param name="imageBytes">How long the image is.</param>
    /// <param name="serial">The serial number of the new file system.</param>
    public static ByteRange? Add(IWritableBlocks stick, long imageBytes, uint serial)
    {
        var start = (imageBytes + MiB - 1) / MiB * MiB;
        var end = Math.Min(stick.LengthBytes - MiB, start + MostBytes) / MiB * MiB;
        if (end - start < LeastBytes) return null;
        var range = new ByteRange(start, end - start);
        if (!List(stick, range)) return null;
        FatFormat.Format(new Slice(stick, range), Label, serial, (uint)(start / stick.SectorBytes));
        return range;
    }

    private static bool List(IWritableBlocks stick, ByteRange range)
    {
        var first = range.Start / stick.SectorBytes;
        var last = (range.End / stick.SectorBytes) - 1;
        var record = new MasterBootRecord(stick.ReadBytes(0, MasterBootRecord.Size));
        var slots = Enumerable.Range(0, MasterBootRecord.SlotCount).Select(record.Slot).ToList();
        if (slots.Exists(slot => slot.Type == PartitionTypes.Protective))
        {
            var added = GptEditor.Add(stick, PartitionTypes.GptBasicData, Guid.NewGuid(), Label, new SectorRange(first, last));
            return added == GptEditResult.Done;
        }

        var free = slots.FindIndex(slot => slot.SectorCount == 0 && slot.Type == 0);
        if (free < 0 || last > uint.MaxValue) return false;
        record.SetSlot(free, new PartitionSlot(0, Fat32Type, (uint)first, (uint)(last - first + 1)));
        stick.Write(0, record.ToBytes());
        return true;
    }
}
