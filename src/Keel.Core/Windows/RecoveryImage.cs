using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>The image of a recovery environment on a volume.</summary>
/// <param name="Volume">The volume that it is on.</param>
/// <param name="File">Its path.</param>
/// <param name="Sdi">The file that a ramdisk begins with, and the volume of that; null where none is found.</param>
/// <param name="Settings">What the Windows remembers that it belongs to.</param>
public sealed record RecoveryImage(
    DiskVolume Volume,
    string File,
    (DiskVolume Volume, string File)? Sdi,
    RecoverySettings Settings)
{
    /// <summary>The name of such an image.</summary>
    public const string FileName = "Winre.wim";

    /// <summary>The name of the file that a ramdisk begins with.</summary>
    public const string SdiName = "boot.sdi";

    /// <summary>Whether the image is all there, as its header says where its parts lie.</summary>
    public bool IsWhole => Volume.Files is { } files && IsWholeImage(files, File);

    /// <summary>Whether a file is an image, and not cut short; one that can't be read is none.</summary>
    /// <param name="files">The volume.</param>
    /// <param name="path">The path of the file.</param>
    public static bool IsWholeImage(IVolume files, string path)
    {
        try
        {
            return IsWholeImage(files.OpenFile(path));
        }
        catch (UnreadableException)
        {
            return false;
        }
    }

    private static bool IsWholeImage(IReadableBlocks file)
    {
        if (file.LengthBytes < ImageHeaderRecord.Bytes) return false;
        var bytes = new byte[ImageHeaderRecord.Bytes];
        file.Read(0, bytes);
        var header = bytes.At<ImageHeaderRecord>(0);
        return header.Signature == ImageHeaderRecord.UsualSignature
            && Lies(header.LookupTableLength, header.LookupTableOffset)
            && Lies(header.DescriptionLength, header.DescriptionOffset);

        bool Lies(ulong lengthAndFlags, ulong offset)
        {
            var length = lengthAndFlags & ImageHeaderRecord.LengthMask;
            return offset <= (ulong)file.LengthBytes && length <= (ulong)file.LengthBytes - offset;
        }
    }

    /// <summary>As an entry of a store names it; null where the file is missing that a ramdisk begins with.</summary>
    public RecoveryToList? ToList() => Sdi is { } sdi
        ? new RecoveryToList(DeviceOf(Volume), File, DeviceOf(sdi.Volume), sdi.File, Settings.Entry)
        : null;

    private static BootDevice DeviceOf(DiskVolume volume) => BootDevice.Of(volume.DiskIdentity, volume.Partition);
}
