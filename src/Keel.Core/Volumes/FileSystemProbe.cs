using Keel.Core.Blocks;
using Keel.Core.Volumes.BitLocker;
using Keel.Core.Volumes.Fat;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.Volumes;

/// <summary>Tells file systems apart by their first sector.</summary>
public static class FileSystemProbe
{
    private const int OemAt = 3;

    /// <summary>Which file system the partition's first sector speaks of.</summary>
    public static FileSystemKind Identify(IReadableBlocks partition)
    {
        var sector = partition.TryRead(0, 512);
        if (sector is null) return FileSystemKind.Unknown;
        var oem = sector.AsSpan(OemAt);
        if (oem.StartsWith(NtfsBootSector.Oem)) return FileSystemKind.Ntfs;
        if (EncryptionReader.IsOne(sector)) return FileSystemKind.BitLocker;
        if (oem.StartsWith("EXFAT   "u8)) return FileSystemKind.ExFat;
        if (oem.StartsWith("ReFS"u8)) return FileSystemKind.ReFs;
        return FatBootSector.TryRead(sector)?.Kind ?? FileSystemKind.Unknown;
    }

    /// <summary>The name shown for a file system; empty for an unknown one.</summary>
    public static string Name(FileSystemKind kind) => kind switch
    {
        FileSystemKind.Ntfs => "NTFS",
        FileSystemKind.Fat12 => "FAT12",
        FileSystemKind.Fat16 => "FAT16",
        FileSystemKind.Fat32 => "FAT32",
        FileSystemKind.ExFat => "exFAT",
        FileSystemKind.ReFs => "ReFS",
        FileSystemKind.BitLocker => "BitLocker",
        _ => ""
    };
}
