using System.Buffers.Binary;

namespace Keel.Core.Volumes;

/// <summary>The parameters in the first sector of a FAT volume (Microsoft FAT specification 1.03).</summary>
/// <param name="Kind">FAT12, FAT16 or FAT32, by the count of clusters.</param>
/// <param name="BytesPerSector">The size of a sector, in bytes.</param>
/// <param name="SectorsPerCluster">Sectors of a cluster.</param>
/// <param name="ReservedSectors">Sectors before the first table.</param>
/// <param name="FatCount">How many tables there are.</param>
/// <param name="RootEntries">Slots of the root folder; 0 on FAT32.</param>
/// <param name="TotalSectors">Sectors of the volume.</param>
/// <param name="FatSectors">Sectors of one FAT.</param>
/// <param name="SectorsPerTrack">Sectors of a track as old firmware counts them.</param>
/// <param name="Heads">Heads of the disk as old firmware counts them.</param>
/// <param name="HiddenSectors">Sectors of the disk before the volume.</param>
/// <param name="RootCluster">First cluster of the root folder (FAT32), else 0.</param>
/// <param name="OnlyFat">The copy of the FAT that alone is in use (FAT32, extended flags); null where all are kept alike.</param>
/// <param name="BackupSector">Sector of the backup boot sector (FAT32, usually 6), else 0.</param>
/// <param name="InfoSector">The sector of the count of free clusters; 0 where there is none.</param>
/// <param name="Serial">The volume's serial number.</param>
/// <param name="Label">The volume's label, 11 letters.</param>
/// <param name="HasMark">Whether it ends with 55 AA.</param>
public sealed record FatBootSector(
    FileSystemKind Kind,
    int BytesPerSector,
    int SectorsPerCluster,
    int ReservedSectors,
    int FatCount,
    int RootEntries,
    long TotalSectors,
    long FatSectors,
    ushort SectorsPerTrack,
    ushort Heads,
    uint HiddenSectors,
    uint RootCluster,
    int InfoSector,
    int BackupSector,
    uint Serial,
    string Label,
    bool HasMark,
    int? OnlyFat)
{
    /// <summary>The size of the sector, in bytes.</summary>
    public const int Size = 512;

    /// <summary>Where fields stand that others need too, in bytes.</summary>
    public const int HiddenSectorsAt = 0x1C, SectorsPerTrackAt = 0x18, HeadsAt = 0x1A;
    private const int Fat12Limit = 4085, Fat16Limit = 65525;

    /// <summary>The first sector of the clusters, counted from the volume's start.</summary>
    public long DataSector =>
        ReservedSectors + (FatCount * FatSectors) + (((RootEntries * 32) + BytesPerSector - 1) / BytesPerSector);

    /// <summary>How many clusters there are.</summary>
    public long ClusterCount => (TotalSectors - DataSector) / SectorsPerCluster;

    /// <summary>The size of a cluster, in bytes.</summary>
    public int ClusterBytes => SectorsPerCluster * BytesPerSector;

    /// <summary>Reads the parameters; nothing where they can't belong to a FAT volume.</summary>
    public static FatBootSector? TryRead(ReadOnlySpan<byte> sector)
    {
        if (sector.Length < Size || sector[0] is not (0xEB or 0xE9)) return null;
        int bytesPerSector = Word(sector, 0xB), perCluster = sector[0xD], reserved = Word(sector, 0xE), fats = sector[0x10];
        if (bytesPerSector is not (512 or 1024 or 2048 or 4096) || perCluster == 0 || (perCluster & (perCluster - 1)) != 0
            || reserved == 0 || fats is not (1 or 2) || sector[0x15] < 0xF0) return null;
        int rootEntries = Word(sector, 0x11), fatSectors16 = Word(sector, 0x16);
        long total = Word(sector, 0x13) is var small and not 0 ? small : BinaryPrimitives.ReadUInt32LittleEndian(sector[0x20..]);
        var wide = fatSectors16 == 0;
        long fatSectors = wide ? BinaryPrimitives.ReadUInt32LittleEndian(sector[0x24..]) : (uint)fatSectors16;
        var tail = sector[(wide ? 0x40 : 0x24)..];
        var parameters = new FatBootSector(
            FileSystemKind.Fat32,
            bytesPerSector,
            perCluster,
            reserved,
            fats,
            rootEntries,
            total,
            fatSectors,
            (ushort)Word(sector, SectorsPerTrackAt),
            (ushort)Word(sector, HeadsAt),
            BinaryPrimitives.ReadUInt32LittleEndian(sector[HiddenSectorsAt..]),
            wide ? BinaryPrimitives.ReadUInt32LittleEndian(sector[0x2C..]) : 0,
            wide ? Word(sector, 0x30) : 0,
            wide ? Word(sector, 0x32) : 0,
            BinaryPrimitives.ReadUInt32LittleEndian(tail[3..]),
            System.Text.Encoding.Latin1.GetString(tail.Slice(7, 11)).TrimEnd(),
            sector[0x1FE] == 0x55 && sector[0x1FF] == 0xAA,
            wide && (sector[0x28] & 0x80) != 0 ? sector[0x28] & 0x0F : null);
        if (fatSectors == 0 || parameters.ClusterCount <= 0) return null;
        var kind = parameters.ClusterCount < Fat12Limit ? FileSystemKind.Fat12
            : parameters.ClusterCount < Fat16Limit ? FileSystemKind.Fat16 : FileSystemKind.Fat32;
        return parameters with { Kind = wide ? FileSystemKind.Fat32 : kind };
    }

    private static int Word(ReadOnlySpan<byte> sector, int at) => BinaryPrimitives.ReadUInt16LittleEndian(sector[at..]);
}
