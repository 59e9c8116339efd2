namespace Keel.Core.Blocks;

/// <summary>
/// The disks of this computer: real ones, without loop devices, RAM disks, drives for CDs, and what is built on other disks.
/// </summary>
public static class ComputerDisks
{
    private const string UsualFolder = "/sys/block";
    private const int SizeUnitBytes = 512;

    /// <summary>The type of a drive for CDs and DVDs (SCSI Primary Commands, "peripheral device type").</summary>
    private const string CdDrive = "5";

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
                .Select(Describe)
                .OfType<ComputerDisk>()
                .OrderBy(disk => disk.IsRemovable)
        ];
    }

    private static ComputerDisk? Describe(string folder)
    {
        var place = new DirectoryInfo(folder).ResolveLinkTarget(returnFinalTarget: true)?.FullName ?? folder;
        if (place.Contains("/virtual/", StringComparison.Ordinal)) return null;
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
