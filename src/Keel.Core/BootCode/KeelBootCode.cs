using Keel.Core.Volumes;

namespace Keel.Core.BootCode;

/// <summary>keel's own boot code, assembled from the sources in boot/ and kept in the program.</summary>
public static class KeelBootCode
{
    /// <summary>
    /// The size of the boot code of an NTFS volume, with its first sector, in bytes. Of the 16 sectors that firmware's loader
    /// reads, the last is not of it: there Windows keeps the head of the volume's snapshots.
    /// </summary>
    public const int NtfsBytes = 15 * 512;

    /// <summary>Sizes of the two parts of FAT32 boot code, in bytes, and the sector of the second one.</summary>
    public const int FatFirstBytes = 512, FatSecondSector = 12, FatSecondBytes = 4 * 512;

    /// <summary>The code of the master boot record, 440 bytes.</summary>
    public static byte[] Mbr() => Load("mbr");

    /// <summary>The 15 sectors of an NTFS boot sector; where the parameters stand, zeros.</summary>
    public static byte[] Ntfs(LoaderKind loader) =>
        Load(loader == LoaderKind.BootManager ? "ntfs-bootmgr" : "ntfs-ntldr")[..NtfsBytes];

    /// <summary>Sector 0 of a FAT32 volume, parameters zero, and behind it sectors 12 to 15.</summary>
    public static byte[] Fat32(LoaderKind loader) => Load(loader == LoaderKind.BootManager ? "fat32-bootmgr" : "fat32-ntldr");

    /// <summary>The one sector of a FAT16 volume; where the parameters stand, zeros.</summary>
    public static byte[] Fat16(LoaderKind loader) => Load(loader == LoaderKind.BootManager ? "fat16-bootmgr" : "fat16-ntldr");

    /// <summary>The one sector of a FAT12 volume; where the parameters stand, zeros.</summary>
    public static byte[] Fat12(LoaderKind loader) => Load(loader == LoaderKind.BootManager ? "fat12-bootmgr" : "fat12-ntldr");

    /// <summary>The boot sector for a file system, with what belongs to it; null where keel has none.</summary>
    public static byte[]? For(FileSystemKind kind, LoaderKind loader) => kind switch
    {
        FileSystemKind.Ntfs => Ntfs(loader),
        FileSystemKind.Fat32 => Fat32(loader),
        FileSystemKind.Fat16 => Fat16(loader),
        FileSystemKind.Fat12 => Fat12(loader),
        _ => null
    };

    /// <summary>The code of the stand-in boot manager, 1024 bytes; length and sum are still zero.</summary>
    internal static byte[] StandIn() => Load("stand-in");

    /// <summary>The code of the stand-in boot manager for UEFI, 1024 bytes; length and sum are still zero.</summary>
    internal static byte[] StandInEfi() => Load("stand-in-efi");

    private static byte[] Load(string name)
    {
        using var stream = typeof(KeelBootCode).Assembly.GetManifestResourceStream($"BootCode/{name}.bin")!;
        var bytes = new byte[stream.Length];
        stream.ReadExactly(bytes);
        return bytes;
    }
}
