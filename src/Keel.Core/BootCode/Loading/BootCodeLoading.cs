using Keel.Core.Blocks;
using Keel.Core.Volumes;

namespace Keel.Core.BootCode.Loading;

/// <summary>
/// Looks for the loader exactly as the boot code in boot/ does, with its limits: what a file system driver finds, boot code may
/// not.
/// </summary>
public static class BootCodeLoading
{
    /// <summary>Boot code reads sectors of this size.</summary>
    public const int SectorBytes = 512;

    /// <summary>The room from 2000:0000 up to the firmware's data, which as a rule begins below 639 KiB.</summary>
    internal const int LoaderRoomBytes = (639 * 1024) - 0x20000;

    /// <summary>What the boot code of a volume would come to; null for file systems without boot code of keel's.</summary>
    /// <exception cref="Errors.ReadFailedException">The disk does not give something that boot code would read.</exception>
    public static LoadResult? Try(IReadableBlocks volume, FileSystemKind kind, LoaderKind loader)
    {
        try
        {
            var name = loader == LoaderKind.Nt5Loader ? "NTLDR" : "BOOTMGR";
            return kind switch
            {
                FileSystemKind.Ntfs => new NtfsLoading(volume).Load(name),
                FileSystemKind.Fat12 or FileSystemKind.Fat16 or FileSystemKind.Fat32 => new FatLoading(volume).Load(name),
                _ => null
            };
        }
        catch (LoadStoppedException e)
        {
            return new LoadResult(e.Outcome, e.Message, 0);
        }
    }

    /// <summary>Refuses a loader that has no bytes, or more than there is room for.</summary>
    internal static void CheckSize(string name, long sizeBytes)
    {
        if (sizeBytes is 0 or > LoaderRoomBytes)
        {
            throw new LoadStoppedException(
                LoadOutcome.WrongSize,
                $"{name} has {sizeBytes} bytes; boot code has room for {LoaderRoomBytes}");
        }
    }
}
