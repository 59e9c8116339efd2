using Keel.Core.Blocks;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.BootCode;

/// <summary>
/// The boot code area of a volume in one piece: for NTFS its first 15 sectors, for FAT32 sector 0 and the second stage, else
/// sector 0.
/// </summary>
public static class BootSectorCopy
{
    private const int SectorBytes = 512;
    private const int Fat12CodeAt = 0x3E, Fat32CodeAt = 0x5A;

    /// <summary>Where the parameters end and code begins.</summary>
    public static int CodeAt(FileSystemKind kind) => kind switch
    {
        FileSystemKind.Ntfs => NtfsBootSector.CodeAt,
        FileSystemKind.Fat32 => Fat32CodeAt,
        _ => Fat12CodeAt
    };

    /// <summary>Reads what stands there; nothing where it can't be read.</summary>
    public static byte[]? TryRead(IReadableBlocks volume, FileSystemKind kind)
    {
        if (kind == FileSystemKind.Ntfs) return volume.TryRead(0, KeelBootCode.NtfsBytes);
        var first = volume.TryRead(0, SectorBytes);
        if (first is null || kind != FileSystemKind.Fat32) return first;
        var second = volume.TryRead(KeelBootCode.FatSecondSector * SectorBytes, KeelBootCode.FatSecondBytes);
        return second is null ? first : [.. first, .. second];
    }

    /// <summary>Whose code a volume has.</summary>
    public static CodeReading? Recognize(IReadableBlocks volume, FileSystemKind kind) =>
        TryRead(volume, kind) is { } sectors ? CodeRecognizer.OfBootSector(sectors, CodeAt(kind)) : null;
}
