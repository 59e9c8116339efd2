namespace Keel.Core.Disks;

/// <summary>What is known of a disk besides its bytes: enough to tell it from another with the same name and contents.</summary>
/// <param name="Model">What the device calls itself; null where it does not say.</param>
/// <param name="Serial">The device's serial number, or its world-wide name; null where it has none.</param>
/// <param name="File">An image's file, also behind a loop device: its number, and when it was created; null where that is not
///     known.</param>
public sealed record DiskTraits(string? Model, string? Serial, string? File)
{
    /// <summary>Nothing is known: an image.</summary>
    public static readonly DiskTraits None = new(null, null, null);

    /// <summary>Whether both are surely one thing; null where nothing tells.</summary>
    public bool? IsSameAs(DiskTraits other)
    {
        if (File is not null && other.File is not null) return File == other.File ? true : null;
        if (Serial is null || other.Serial is null) return null;
        return Serial == other.Serial && (Model is null || other.Model is null || Model == other.Model);
    }

    /// <summary>
    /// An image's file: the same name can hold another file tomorrow, and the same number too, but not with the same time of
    /// birth.
    /// </summary>
    internal static DiskTraits OfFile(UnixFileStatus status) =>
        new(null, null, status.Born is { } born ? $"{status.Id}@{born}" : null);

    /// <summary>A block device, as sysfs describes it.</summary>
    /// <param name="folder">Its folder there.</param>
    /// <param name="backing">The file behind a loop device; null for other devices.</param>
    internal static DiskTraits OfDevice(string folder, UnixFileStatus? backing) =>
        backing is not null ? OfFile(backing) : OfDevice(folder);

    /// <summary>A block device by its folder in sysfs.</summary>
    internal static DiskTraits OfDevice(string folder)
    {
        var serial = Text($"{folder}/device/serial") ?? Text($"{folder}/serial") ?? UnitSerial($"{folder}/device/vpd_pg80")
            ?? Text($"{folder}/wwid") ?? Text($"{folder}/device/wwid") ?? Text($"{folder}/device/cid");
        return new DiskTraits(Text($"{folder}/device/model"), serial, null);
    }

    private static string? Text(string path)
    {
        const int limit = 256;
        try
        {
            if (!System.IO.File.Exists(path)) return null;
            var text = System.IO.File.ReadAllText(path).Trim('\0', ' ', '\n');
            return text.Length is > 0 and <= limit ? text : null;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    /// <summary>The unit serial number page of a SCSI or SATA disk (SPC-4, vital product data page 80).</summary>
    private static string? UnitSerial(string path)
    {
        const int lengthAt = 3, textAt = 4;
        try
        {
            if (!System.IO.File.Exists(path)) return null;
            var page = System.IO.File.ReadAllBytes(path);
            if (page.Length <= textAt) return null;
            var text = System.Text.Encoding.ASCII
                .GetString(page, textAt, Math.Min(page[lengthAt], page.Length - textAt))
                .Trim('\0', ' ');
            return text.Length > 0 ? text : null;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }
}
