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
        var perCluster = 1;
        while (perCluster <= LargestClusterSectors
            && ((total - clustersAt) / perCluster) + 2 > fats.Sectors * (long)EntriesInSector)
        {
            perCluster *= 2;
        }

        if (perCluster > LargestClusterSectors) return null;

        if (CountClusters(fats) is { } clusters && clusters <= (total - clustersAt) / perCluster)
            total = clustersAt + (clusters * perCluster);
        return Sector(fats, total, perCluster, serial);
    }

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
        for (var reserved = BackupSector + 1; reserved <= LargestReserved; reserved++)
        {
            if (volume.TryRead((long)reserved * SectorBytes, SectorBytes) is not { } first || first[0] < 0xF0
                || (BinaryPrimitives.ReadUInt32LittleEndian(first) & FirstEntryMask) != FirstEntry) continue;
            var limit = volume.LengthBytes / SectorBytes / EntriesInSector;
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
