using System.Buffers.Binary;
using Keel.Core.Blocks;
using Keel.Core.Volumes;

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
        var sector = new byte[SectorBytes];
        var sectorBytes = Math.Min(volume.Blocks.SectorBytes, mft.ClusterBytes);
        ((ReadOnlySpan<byte>)[0xEB, 0x52, 0x90]).CopyTo(sector);
        NtfsBootSector.Oem.CopyTo(sector.AsSpan(3));
        BinaryPrimitives.WriteUInt16LittleEndian(sector.AsSpan(0xB), (ushort)sectorBytes);
        var perCluster = mft.ClusterBytes / sectorBytes;
        sector[0xD] = perCluster <= 0x80 ? (byte)perCluster : (byte)(256 - int.Log2(perCluster));
        sector[0x15] = 0xF8;
        BinaryPrimitives.WriteUInt32LittleEndian(sector.AsSpan(0x24), 0x00800080);
        BinaryPrimitives.WriteInt64LittleEndian(sector.AsSpan(0x28), (volume.Blocks.LengthBytes / sectorBytes) - 1);
        BinaryPrimitives.WriteInt64LittleEndian(sector.AsSpan(0x30), mft.MftCluster);
        BinaryPrimitives.WriteInt64LittleEndian(sector.AsSpan(0x38), mft.MirrorCluster);
        sector[0x40] = Unit(mft.RecordBytes, mft.ClusterBytes);
        sector[0x44] = Unit(mft.IndexBytes, mft.ClusterBytes);
        BinaryPrimitives.WriteUInt64LittleEndian(sector.AsSpan(0x48), serial);
        return sector;
    }

    /// <summary>
    /// A FAT32 boot sector without code, its parameters read from where the FATs stand; null where none are found.
    /// </summary>
    public static byte[]? RebuildFat32(DiskVolume volume, uint serial) => FatRebuild.Sector(volume.Blocks, serial);

    /// <summary>Clusters where it is a whole number of them, else a negative power of two.</summary>
    private static byte Unit(int bytes, int clusterBytes) =>
        bytes >= clusterBytes ? (byte)(bytes / clusterBytes) : (byte)-int.Log2(bytes);
}
