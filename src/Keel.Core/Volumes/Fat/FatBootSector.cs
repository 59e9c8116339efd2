using System.Text;
using Keel.Core.Blocks;

namespace Keel.Core.Volumes.Fat;

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
        if (sector.Length < Size) return null;
        var head = sector.At<BootParameterRecord>(0);
        if (!IsPlausible(head)) return null;
        var isWide = head.SectorsPerFat == 0;
        var wide = isWide ? sector.At<FatWideRecord>(FatWideRecord.At) : default;
        var tail = sector.At<FatTailRecord>(isWide ? FatTailRecord.WideAt : FatTailRecord.At);
        var parameters = new FatBootSector(
            FileSystemKind.Fat32,
            head.BytesPerSector,
            head.SectorsPerCluster,
            head.ReservedSectors,
            head.Fats,
            head.RootEntries,
            head.SmallSectors != 0 ? head.SmallSectors : head.LargeSectors,
            isWide ? wide.SectorsPerFat : head.SectorsPerFat,
            head.SectorsPerTrack,
            head.Heads,
            head.HiddenSectors,
            wide.RootCluster,
            wide.InfoSector,
            wide.BackupSector,
            tail.Serial,
            Encoding.Latin1.GetString(tail.Label).TrimEnd(),
            BootSectorMark.IsIn(sector),
            wide.OnlyFat);
        if (parameters.FatSectors == 0 || parameters.ClusterCount <= 0) return null;
        return isWide ? parameters : parameters with { Kind = KindOf(parameters.ClusterCount) };
    }

    private static FileSystemKind KindOf(long clusters) => clusters < Fat12Limit ? FileSystemKind.Fat12
        : clusters < Fat16Limit ? FileSystemKind.Fat16
        : FileSystemKind.Fat32;

    private static bool IsPlausible(in BootParameterRecord head)
    {
        const byte jumpShort = 0xEB, jumpNear = 0xE9, leastMedia = 0xF0;
        return head.JumpCode is jumpShort or jumpNear
            && head.BytesPerSector is 512 or 1024 or 2048 or 4096
            && int.IsPow2(head.SectorsPerCluster)
            && head.ReservedSectors > 0
            && head.Fats is 1 or 2
            && head.Media >= leastMedia;
    }
}
