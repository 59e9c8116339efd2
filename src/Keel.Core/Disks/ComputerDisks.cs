namespace Keel.Core.Disks;

/// <summary>
/// The disks of this computer: real ones, without loop devices, RAM disks, drives for CDs, and what is built on other disks.
/// </summary>
public static class ComputerDisks
{
    private const string UsualFolder = "/sys/block";
    private const int SizeUnitBytes = 512;

    /// <summary>The type of a drive for CDs and DVDs (SCSI Primary Commands, "peripheral device type").</summary>
    private const string CdDrive = "5";

    /// <summary>Where the kernel keeps a disk that it reaches on several ways at once: it is real for all that.</summary>
    private const string SeveralWays = "/virtual/nvme-subsystem/";

    /// <summary>Every disk, the built-in ones first, in the order of their names.</summary>
    public static IReadOnlyList<ComputerDisk> All() => All(UsualFolder);

    /// <summary>The same from a folder that is laid out like /sys/block.</summary>
    internal static IReadOnlyList<ComputerDisk> All(string folder)
    {
        if (!Directory.Exists(folder)) return [];
        return
        [
            .. Directory.GetFileSystemEntries(folder)
                .Order(StringComparer.Ordinal)
                .Where(IsReal)
                .Select(Describe)
                .OfType<ComputerDisk>()
                .OrderBy(disk => disk.IsRemovable)
        ];
    }

    /// <summary>
    /// Any block device, also one that is built on others or made up by the kernel, by whatever path it is reached; null for
    /// what is none, or has no size.
    /// </summary>
    public static ComputerDisk? Of(string path) => DiskPath.FolderOf(path) is { } folder ? Describe(folder) : null;

    /// <summary>Whether a device, by its folder in sysfs, is a disk of its own.</summary>
    internal static bool IsReal(string folder)
    {
        var place = LinuxNative.FullPath(folder) ?? folder;
        return !place.Contains("/virtual/", StringComparison.Ordinal) || place.Contains(SeveralWays, StringComparison.Ordinal);
    }

    private static ComputerDisk? Describe(string folder)
    {
        var place = LinuxNative.FullPath(folder) ?? folder;
        if (Text($"{folder}/device/type") == CdDrive) return null;
        if (!long.TryParse(Text($"{folder}/size"), out var sectors) || sectors <= 0) return null;
        var name = Path.GetFileName(folder);
        var bus = BusOf(place, name);
        return new ComputerDisk(
            $"/dev/{name.Replace('!', '/')}",
            sectors * SizeUnitBytes,
            bus,
            bus == DiskBus.Usb || Text($"{folder}/removable") == "1",
            DiskTraits.OfDevice(folder));
    }

    private static DiskBus BusOf(string place, string name)
    {
        (string Part, DiskBus Bus)[] signs =
        [
            ("/usb", DiskBus.Usb),
            ("/nvme", DiskBus.Nvme),
            ("/mmc", DiskBus.Mmc),
            ("/virtio", DiskBus.Virtual),
            ("/vmbus", DiskBus.Virtual),
            ("/ata", DiskBus.Ata),
            ("/host", DiskBus.Scsi)
        ];
        var found = Array.Find(signs, sign => place.Contains(sign.Part, StringComparison.OrdinalIgnoreCase));
        return found.Part is not null ? found.Bus
            : name.StartsWith("nvme", StringComparison.Ordinal) ? DiskBus.Nvme
            : DiskBus.Other;
    }

    private static string? Text(string path)
    {
        try
        {
            return File.Exists(path) ? File.ReadAllText(path).Trim() : null;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }
}
