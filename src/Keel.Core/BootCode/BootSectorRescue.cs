using Keel.Core.Blocks;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.BootCode;

/// <summary>Brings a lost boot sector back: from its backup copy, or from the file system's own structures.</summary>
public static class BootSectorRescue
{
    private const int SectorBytes = 512;
    private const int FatBackupSector = 6;

    /// <summary>
    /// The backup copy of sector 0, where there is one that the volume bears out: the last sector for NTFS, sector 6 for FAT32.
    /// </summary>
    /// <exception cref="Errors.ReadFailedException">The disk does not give the places where it would be.</exception>
    public static (FileSystemKind Kind, byte[] Sector)? FindBackup(DiskVolume volume)
    {
        var blocks = volume.Blocks;
        var (ntfs, fat) = (NtfsCopy(blocks), FatCopy(blocks));
        // each contradicts the other
        if (ntfs is not null && fat is not null && BootSectorProof.HasMft(blocks, ntfs)) return null;

        // A format leaves NTFS's copy at the end and the mirror in the middle alone: without $MFT itself they are no proof
        // against FATs.
        if (ntfs is not null && fat is null && (BootSectorProof.HasMft(blocks, ntfs) || FatRebuild.Sector(blocks, 0) is null))
            return (FileSystemKind.Ntfs, ntfs);
        return fat is null ? null : (FileSystemKind.Fat32, fat);
    }

    private static byte[]? NtfsCopy(IReadableBlocks blocks) => SectorSizes(blocks)
        .Select(sectorBytes => blocks.TryRead(blocks.LengthBytes - sectorBytes, SectorBytes))
        .FirstOrDefault(sector => sector is not null
            && NtfsBootSector.TryRead(sector) is { IsPlausible: true, HasMark: true } boot
            && boot.TotalSectors <= (blocks.LengthBytes / boot.BytesPerSector) - 1
                && BootSectorProof.Holds(blocks, FileSystemKind.Ntfs, sector));

    private static byte[]? FatCopy(IReadableBlocks blocks) => SectorSizes(blocks)
        .Select(sectorBytes => blocks.TryRead((long)FatBackupSector * sectorBytes, SectorBytes))
        .FirstOrDefault(sector =>
            sector is not null
                && FatBootSector.TryRead(sector) is { Kind: FileSystemKind.Fat32, HasMark: true }
                && BootSectorProof.Holds(blocks, FileSystemKind.Fat32, sector));

    /// <summary>The disk's own sector size first; a file system may have been made for another.</summary>
    private static IEnumerable<int> SectorSizes(IReadableBlocks blocks) => new[] { blocks.SectorBytes, 512, 4096 }.Distinct();

    /// <summary>
    /// An NTFS boot sector without code, its parameters read from $MFT; null where no $MFT is found in the usual places.
    /// </summary>
    /// <param name="volume">The volume that has lost its boot sector.</param>
    /// <param name="serial">The serial number that the volume gets: the old one stood only in the lost sectors.</param>
    public static byte[]? RebuildNtfs(DiskVolume volume, ulong serial)
    {
        if (MftSearch.Find(volume.Blocks) is not { } mft) return null;
        var sectorBytes = Math.Min(volume.Blocks.SectorBytes, mft.ClusterBytes);
        var perCluster = mft.ClusterBytes / sectorBytes;
        var record = new NtfsBootSectorRecord
        {
            Head = new BootParameterRecord
            {
                Oem = Bytes8.Of(NtfsBootSector.Oem),
                BytesPerSector = (ushort)sectorBytes,
                SectorsPerCluster = perCluster <= 0x80 ? (byte)perCluster : (byte)(256 - int.Log2(perCluster)),
                Media = 0xF8
            },
            PhysicalDrive = 0x00800080,
            TotalSectors = (volume.Blocks.LengthBytes / sectorBytes) - 1,
            MftCluster = mft.MftCluster,
            MftMirrorCluster = mft.MirrorCluster,
            RecordClusters = Unit(mft.RecordBytes, mft.ClusterBytes),
            IndexClusters = Unit(mft.IndexBytes, mft.ClusterBytes),
            Serial = serial
        };
        record.Head.SetJump(NtfsBootSector.CodeAt);
        var sector = new byte[SectorBytes];
        sector.Put(0, record);
        return sector;
    }

    /// <summary>
    /// A FAT32 boot sector without code, its parameters read from where the FATs stand; null where none are found.
    /// </summary>
    public static byte[]? RebuildFat32(DiskVolume volume, uint serial) => FatRebuild.Sector(volume.Blocks, serial);

    /// <summary>Clusters where it is a whole number of them, else a negative power of two.</summary>
    private static sbyte Unit(int bytes, int clusterBytes) =>
        bytes >= clusterBytes ? (sbyte)(bytes / clusterBytes) : (sbyte)-int.Log2(bytes);
}
