using System.Buffers.Binary;
using Keel.Core.Blocks;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.BootCode;

/// <summary>
/// Whether what a boot sector points at really stands there: a copy left over from another file system points at nothing.
/// </summary>
internal static class BootSectorProof
{
    private const uint FatEntryMask = 0x0FFFFFFF, ReservedEntry = 0x0FFFFF00;

    /// <summary>Whether the volume bears a boot sector out.</summary>
    /// <exception cref="Errors.ReadFailedException">The disk does not give the places.</exception>
    public static bool Holds(IReadableBlocks volume, FileSystemKind kind, byte[] sector) => kind switch
    {
        FileSystemKind.Ntfs
            => NtfsBootSector.TryRead(sector) is { IsPlausible: true } boot
                && (IsMft(volume, boot, boot.MftCluster) || IsMft(volume, boot, boot.MftMirrorCluster)),
        FileSystemKind.Fat32 => FatBootSector.TryRead(sector) is { } boot && IsTable(volume, boot, sector),
        _ => false
    };

    /// <summary>Whether $MFT itself stands where an NTFS boot sector says, and not only its mirror.</summary>
    public static bool HasMft(IReadableBlocks volume, byte[] sector) =>
        NtfsBootSector.TryRead(sector) is { IsPlausible: true } boot && IsMft(volume, boot, boot.MftCluster);

    /// <summary>The first record there is that of $MFT, and says that $MFT begins where the boot sector says it.</summary>
    private static bool IsMft(IReadableBlocks volume, NtfsBootSector boot, long cluster)
    {
        if (cluster <= 0 || cluster >= volume.LengthBytes / boot.ClusterBytes) return false;
        var bytes = volume.TryRead(cluster * boot.ClusterBytes, NtfsFileRecord.LargestBytes);
        return bytes is not null
            && NtfsFileRecord.TryRead(bytes) is { } record
            && record.IsNamed("$MFT")
            && record.FirstDataCluster == boot.MftCluster;
    }

    /// <summary>The table begins as tables do, and the root folder has a cluster in it.</summary>
    private static bool IsTable(IReadableBlocks volume, FatBootSector boot, byte[] sector)
    {
        const int mediaAt = 0x15;
        var table = (long)boot.ReservedSectors * boot.BytesPerSector;
        if (volume.TryRead(table, sizeof(uint)) is not { } first
            || volume.TryRead(table + (boot.RootCluster * (long)sizeof(uint)), sizeof(uint)) is not { } root)
        {
            return false;
        }

        var entry = BinaryPrimitives.ReadUInt32LittleEndian(first);
        return (byte)entry == sector[mediaAt]
            && (entry & ReservedEntry) == ReservedEntry
            && (BinaryPrimitives.ReadUInt32LittleEndian(root) & FatEntryMask) != 0;
    }
}
