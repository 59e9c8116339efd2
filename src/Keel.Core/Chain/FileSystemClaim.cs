using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.Chain;

/// <summary>How large a file system says it is.</summary>
/// <param name="LeastBytes">What it can't do without, in bytes.</param>
/// <param name="WholeBytes">The same with the sector of its backup.</param>
internal sealed record FileSystemClaim(long LeastBytes, long WholeBytes)
{
    /// <summary>What the boot sector of a volume says, where it names the volume's very place; null otherwise.</summary>
    public static FileSystemClaim? Of(DiskVolume volume)
    {
        if (volume.Kind is FileSystemKind.Unknown) return null;
        if (volume.Kind is FileSystemKind.BitLocker)
        {
            return volume.Encryption is { IsWhole: true, EncryptedBytes: > 0 and var encrypted }
                ? new FileSystemClaim(encrypted, encrypted)
                : null;
        }

        try
        {
            if (volume.Blocks.TryRead(0, NtfsBootSector.Size) is not { } sector) return null;
            var place = volume.Partition.Range.Start / volume.Blocks.SectorBytes;
            if (NtfsBootSector.TryRead(sector) is { IsPlausible: true } ntfs)
            {
                var bytes = ntfs.TotalSectors * ntfs.BytesPerSector;
                return ntfs.HiddenSectors == place && bytes > 0 ? new FileSystemClaim(bytes, bytes + ntfs.BytesPerSector) : null;
            }

            if (FatBootSector.TryRead(sector) is not { } fat || fat.HiddenSectors != place) return null;
            var size = fat.TotalSectors * fat.BytesPerSector;
            return new FileSystemClaim(size, size);
        }
        catch (KeelException)
        {
            return null;
        }
    }
}
