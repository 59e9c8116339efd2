using Keel.Core.Blocks;

namespace Keel.Core.Volumes.Ntfs;

/// <summary>
/// The parameters in the first sector of an NTFS volume ("$Boot"), as the NTFS documentation of Linux-NTFS names them.
/// </summary>
/// <param name="BytesPerSector">512 to 4096.</param>
/// <param name="ClusterBytes">Bytes in a cluster; 0 where the field makes no sense.</param>
/// <param name="SectorsPerTrack">Sectors of a track as old firmware counts them.</param>
/// <param name="Heads">Heads of the disk as old firmware counts them.</param>
/// <param name="HiddenSectors">Sectors before the partition; boot code adds it to every sector number.</param>
/// <param name="TotalSectors">Sectors of the volume, without the last one, which holds the backup.</param>
/// <param name="MftCluster">First cluster of $MFT.</param>
/// <param name="MftMirrorCluster">The first cluster of the mirror of the master file table.</param>
/// <param name="RecordBytes">Bytes in a file record; 0 where the field makes no sense.</param>
/// <param name="IndexBytes">Bytes in an index block; 0 where the field makes no sense.</param>
/// <param name="Serial">The volume's serial number.</param>
/// <param name="HasMark">Whether it ends with 55 AA.</param>
public sealed record NtfsBootSector(
    int BytesPerSector,
    int ClusterBytes,
    ushort SectorsPerTrack,
    ushort Heads,
    uint HiddenSectors,
    long TotalSectors,
    long MftCluster,
    long MftMirrorCluster,
    int RecordBytes,
    int IndexBytes,
    ulong Serial,
    bool HasMark)
{
    /// <summary>The size of the sector, in bytes.</summary>
    public const int Size = 512;

    /// <summary>Where code begins, in bytes.</summary>
    public const int CodeAt = 0x54;

    private const int OemAt = 3;

    /// <summary>The name that an NTFS boot sector has at its head.</summary>
    public static ReadOnlySpan<byte> Oem => "NTFS    "u8;

    /// <summary>Whether the parameters can belong to a volume at all.</summary>
    public bool IsPlausible => BytesPerSector is 512 or 1024 or 2048 or 4096 && ClusterBytes > 0 && TotalSectors > 0
        && MftCluster > 0 && RecordBytes is >= 256 and <= 65536 && IndexBytes is >= 256 and <= 65536;

    /// <summary>Reads the parameters; nothing where the sector is not marked as NTFS.</summary>
    public static NtfsBootSector? TryRead(ReadOnlySpan<byte> sector)
    {
        if (sector.Length < Size || !sector[OemAt..].StartsWith(Oem)) return null;
        var record = sector.At<NtfsBootSectorRecord>(0);
        var perCluster = record.Head.SectorsPerCluster;
        var sectorsPerCluster = perCluster > 0x80 ? 1 << Math.Min(256 - perCluster, 21) : perCluster;
        var clusterBytes = record.Head.BytesPerSector * sectorsPerCluster;
        return new NtfsBootSector(
            record.Head.BytesPerSector,
            clusterBytes,
            record.Head.SectorsPerTrack,
            record.Head.Heads,
            record.Head.HiddenSectors,
            record.TotalSectors,
            record.MftCluster,
            record.MftMirrorCluster,
            UnitBytes(record.RecordClusters, clusterBytes),
            UnitBytes(record.IndexClusters, clusterBytes),
            record.Serial,
            BootSectorMark.IsIn(sector));
    }

    /// <summary>A positive number counts clusters, a negative one is a power of two in bytes.</summary>
    private static int UnitBytes(sbyte field, int clusterBytes) => field switch
    {
        > 0 => (int)Math.Min((long)field * clusterBytes, int.MaxValue),
        < 0 and >= -30 => 1 << -field,
        _ => 0
    };
}
