using System.Buffers.Binary;
using Keel.Core.Blocks;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;

namespace Keel.Core.BootCode;

/// <summary>
/// Finds the parameters of a FAT32 volume whose boot sector and its copy are lost, from where its two FATs stand.
/// </summary>
internal sealed class FatRebuild(IReadableBlocks volume)
{
    private const int RecordBytes = 512, RootCluster = 2, InfoSector = 1, BackupSector = 6;
    private const int LargestReserved = 256, LargestClusterSectors = 128;

    /// <summary>No FAT has more entries than 28 bits count; and no more than a few sectors are taken for the first FAT.</summary>
    private const long LargestEntries = 1L << 28, MostTries = 4;

    private const uint FirstEntry = 0x0FFFFF00, FirstEntryMask = 0x0FFFFF00;

    /// <summary>A boot sector without code; null where no two equal FATs are found.</summary>
    public static byte[]? Sector(IReadableBlocks volume, uint serial) => new FatRebuild(volume).Sector(serial);

    private int SectorBytes => volume.SectorBytes;

    private int EntriesInSector => SectorBytes / sizeof(uint);

    private byte[]? Sector(uint serial)
    {
        if (FindFats() is not { } fats) return null;
        var total = volume.LengthBytes / SectorBytes;
        var clustersAt = fats.Reserved + (2L * fats.Sectors);
        if ((ByFolder(clustersAt) ?? ByTable(fats.Sectors, total - clustersAt)) is not { } perCluster) return null;

        if (CountClusters(fats) is { } clusters && clusters <= (total - clustersAt) / perCluster)
            total = clustersAt + (clusters * perCluster);
        return Sector(fats, total, perCluster, serial);
    }

    /// <summary>The smallest clusters for which the table has enough entries; null where even the largest need more.</summary>
    private int? ByTable(int fatSectors, long sectors)
    {
        for (var perCluster = 1; perCluster <= LargestClusterSectors; perCluster *= 2)
        {
            if ((sectors / perCluster) + 2 <= fatSectors * (long)EntriesInSector) return perCluster;
        }

        return null;
    }

    /// <summary>
    /// The clusters for which folders of the root stand where it says; null where none does. That holds also where the volume
    /// is smaller than what is searched.
    /// </summary>
    private int? ByFolder(long clustersAt)
    {
        const int slotBytes = 32;
        if (volume.TryRead(clustersAt * SectorBytes, SectorBytes) is not { } root) return null;
        for (var at = 0; at < root.Length; at += slotBytes)
        {
            var slot = root.At<FatSlotRecord>(at);
            if (slot.Marks != FatSlotRecord.FolderMark || slot.FirstCluster <= RootCluster) continue;
            for (var perCluster = 1; perCluster <= LargestClusterSectors; perCluster *= 2)
            {
                if (IsFolder(clustersAt + ((slot.FirstCluster - RootCluster) * (long)perCluster), slot.FirstCluster))
                    return perCluster;
            }
        }

        return null;
    }

    /// <summary>A folder begins with an entry for itself.</summary>
    private bool IsFolder(long sector, uint cluster) =>
        volume.TryRead(sector * SectorBytes, SectorBytes) is { } first
            && first.AsSpan().StartsWith(".          "u8)
            && first.At<FatSlotRecord>(0).FirstCluster == cluster;

    private byte[] Sector((int Reserved, int Sectors, byte Media) fats, long total, int perCluster, uint serial)
    {
        const byte firstDrive = 0x80;
        var head = new BootParameterRecord
        {
            Oem = Bytes8.Of("MSWIN4.1"u8),
            BytesPerSector = (ushort)SectorBytes,
            SectorsPerCluster = (byte)perCluster,
            ReservedSectors = (ushort)fats.Reserved,
            Fats = 2,
            Media = fats.Media,
            LargeSectors = (uint)total
        };
        head.SetJump(BootSectorCopy.CodeAt(FileSystemKind.Fat32));
        var sector = new byte[RecordBytes];
        sector.Put(0, head);
        sector.Put(FatWideRecord.At, new FatWideRecord
        {
            SectorsPerFat = (uint)fats.Sectors,
            RootCluster = RootCluster,
            InfoSector = InfoSector,
            BackupSector = BackupSector
        });
        sector.Put(FatTailRecord.WideAt, new FatTailRecord
        {
            Drive = firstDrive,
            Mark = FatTailRecord.ExtendedMark,
            Serial = serial,
            Label = Bytes11.Of("NO NAME    "u8),
            FileSystem = Bytes8.Of("FAT32   "u8)
        });
        return sector;
    }

    /// <summary>
    /// The clusters there are: those in use by the FAT, and those that the information sector counts as free; null where it
    /// counts none.
    /// </summary>
    private long? CountClusters((int Reserved, int Sectors, byte Media) fats)
    {
        const int tableLimitBytes = 64 * 1024 * 1024;
        if (volume.TryRead(InfoSector * SectorBytes, SectorBytes) is not { } info
            || info.At<FatInfoRecord>(0) is not { Lead: FatInfoRecord.LeadMark } counted
            || (long)fats.Sectors * SectorBytes > tableLimitBytes
            || volume.TryRead((long)fats.Reserved * SectorBytes, fats.Sectors * SectorBytes) is not { } table)
        {
            return null;
        }

        if (counted.FreeClusters == FatInfoRecord.Unknown) return null;
        long used = 0;
        for (var at = 2 * sizeof(uint); at < table.Length; at += sizeof(uint))
        {
            if ((BinaryPrimitives.ReadUInt32LittleEndian(table.AsSpan(at)) & 0x0FFFFFFF) != 0) used++;
        }

        return used + counted.FreeClusters;
    }

    /// <summary>The first FAT begins with the media byte; the second is where the same sector comes again.</summary>
    private (int Reserved, int Sectors, byte Media)? FindFats()
    {
        var tries = 0;
        for (var reserved = BackupSector + 1; reserved <= LargestReserved && tries < MostTries; reserved++)
        {
            if (volume.TryRead((long)reserved * SectorBytes, SectorBytes) is not { } first || first[0] < 0xF0
                || (BinaryPrimitives.ReadUInt32LittleEndian(first) & FirstEntryMask) != FirstEntry) continue;
            tries++;
            var limit = Math.Min(volume.LengthBytes / SectorBytes, LargestEntries) / EntriesInSector;
            for (var sectors = 1; sectors <= limit + 1; sectors++)
            {
                if (volume.TryRead((long)(reserved + sectors) * SectorBytes, SectorBytes) is { } second
                    && first.AsSpan().SequenceEqual(second))
                {
                    return (reserved, sectors, first[0]);
                }
            }
        }

        return null;
    }
}
