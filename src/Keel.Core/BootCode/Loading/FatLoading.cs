using System.Buffers.Binary;
using Keel.Core.Blocks;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;

namespace Keel.Core.BootCode.Loading;

/// <summary>
/// The way of boot/fat32.asm and boot/fat16.asm: the root folder, slot by slot, for a name of 8 and 3 letters; then the chain of
/// clusters.
/// </summary>
internal sealed class FatLoading(IReadableBlocks volume)
{
    private const int SlotBytes = 32, NameBytes = 11;
    private const byte Deleted = 0xE5, LabelOrFolder = 0x18;
    private const uint EntryMask = 0x0FFFFFFF, Bad = 0x0FFFFFF7;
    private FatBootSector boot = null!;
    private int chainLeft = 0x10000;

    public LoadResult Load(string name)
    {
        boot = volume.TryRead(0, FatBootSector.Size) is { } sector
            && FatBootSector.TryRead(sector) is { BytesPerSector: BootCodeLoading.SectorBytes } parameters
            ? parameters
            : throw Damaged("the parameters of the volume");
        var slot = Find(name);
        BootCodeLoading.CheckSize(name, slot.SizeBytes);
        return new LoadResult(LoadOutcome.Loaded, "", Follow(slot.FirstCluster, slot.SizeBytes));
    }

    private FatSlotRecord Find(string name)
    {
        var wanted = System.Text.Encoding.ASCII.GetBytes(name.PadRight(NameBytes));
        foreach (var folder in RootFolder())
        {
            for (var at = 0; at < folder.Length; at += SlotBytes)
            {
                var slot = folder.At<FatSlotRecord>(at);
                if (slot.Name[0] == 0)
                    throw new LoadStoppedException(LoadOutcome.NotFound, $"no slot of the root folder is named {name}");
                if (slot.Name[0] != Deleted
                    && (slot.Marks & LabelOrFolder) == 0
                    && ((ReadOnlySpan<byte>)slot.Name).SequenceEqual(wanted))
                {
                    return slot;
                }
            }
        }

        throw new LoadStoppedException(LoadOutcome.NotFound, $"no slot of the root folder is named {name}");
    }

    /// <summary>The root folder, piece by piece: a chain of clusters on FAT32, a place of its own before that.</summary>
    private IEnumerable<byte[]> RootFolder()
    {
        if (boot.Kind != FileSystemKind.Fat32)
        {
            var place = (boot.ReservedSectors + (boot.FatCount * boot.FatSectors)) * BootCodeLoading.SectorBytes;
            yield return Read(place, boot.RootEntries * SlotBytes);
            yield break;
        }

        for (uint? cluster = boot.RootCluster; cluster is { } current; cluster = Next(current))
            yield return Read(PlaceOf(current), boot.ClusterBytes);
    }

    /// <summary>Goes along the chain as far as the file needs it, and counts its pieces.</summary>
    private int Follow(uint cluster, uint size)
    {
        var runs = 1;
        for (long left = size; ; left -= boot.ClusterBytes)
        {
            Read(
                PlaceOf(cluster),
                (int)Math.Min(
                    boot.ClusterBytes,
                    (left + BootCodeLoading.SectorBytes - 1) / BootCodeLoading.SectorBytes * BootCodeLoading.SectorBytes));
            if (left <= boot.ClusterBytes) return runs;
            var next = Next(cluster) ?? throw Damaged("the chain of the loader's clusters ends too early");
            if (next != cluster + 1) runs++;
            cluster = next;
        }
    }

    private uint? Next(uint cluster)
    {
        if (--chainLeft == 0) throw Damaged("a chain of clusters is a ring");
        var table = (boot.ReservedSectors + ((boot.OnlyFat ?? 0) * boot.FatSectors)) * BootCodeLoading.SectorBytes;
        var (entry, bad) = Entry(table, cluster);
        if (entry == bad) throw Damaged("a chain of clusters leads to a bad one");
        return entry > bad ? null : entry;
    }

    /// <summary>An entry of the table, and the number that marks a bad cluster in such a table.</summary>
    private (uint Entry, uint Bad) Entry(long table, uint cluster)
    {
        const uint bad12 = 0xFF7, bad16 = 0xFFF7;
        switch (boot.Kind)
        {
            case FileSystemKind.Fat12:
                var pair = BinaryPrimitives.ReadUInt16LittleEndian(Read(table + cluster + (cluster / 2), sizeof(ushort)));
                return ((cluster & 1) == 0 ? pair & 0xFFFu : (uint)pair >> 4, bad12);
            case FileSystemKind.Fat16:
                return (BinaryPrimitives.ReadUInt16LittleEndian(Read(table + (cluster * 2L), sizeof(ushort))), bad16);
            default:
                var wide = BinaryPrimitives.ReadUInt32LittleEndian(Read(table + (cluster * (long)sizeof(uint)), sizeof(uint)));
                return (wide & EntryMask, Bad);
        }
    }

    private long PlaceOf(uint cluster)
    {
        const uint first = 2;
        if (cluster < first) throw Damaged("a chain of clusters leads nowhere");
        return (boot.DataSector
            + ((long)(cluster - first) * boot.SectorsPerCluster)) * BootCodeLoading.SectorBytes;
    }

    private byte[] Read(long at, int count) =>
        volume.TryRead(at, count) ?? throw Damaged("a chain of clusters leads beyond the volume");

    private static LoadStoppedException Damaged(string what) => new(LoadOutcome.Damaged, what);
}
