using Keel.Core.Errors;

namespace Keel.Core.Disks;

/// <summary>What kind of thing a path names, told apart before it is opened.</summary>
public static class DiskPath
{
    private const string BlockDevices = "/sys/class/block";

    /// <summary>The path with links resolved, when it names a whole disk or an image.</summary>
    /// <exception cref="UnreadableException">Missing, a folder, a partition, or something that has no bytes to stand
    ///     on.</exception>
    public static string Resolve(string path)
    {
        if (path.Length == 0)
        {
            throw new WrongUsageException(
                "No disk was named.",
                "The path is empty.",
                "Name a block device such as /dev/sda, or an image file.");
        }

        switch (LinuxNative.KindOf(path))
        {
            case UnixFileKind.Missing when LinuxNative.LastError is LinuxNative.AccessDenied or LinuxNative.NotPermitted:
                throw new UnreadableException(
                    $"{path} can't be looked at.",
                    "You don't have the permission for the folder that it is in.",
                    "Run keel as root, or give this user access to the folder.");
            case UnixFileKind.Missing:
                throw new UnreadableException(
                    $"{path} is not there.",
                    "No file or device has this name.",
                    "Check the spelling; 'keel survey' lists the disks of this computer.");
            case UnixFileKind.Folder:
                throw new UnreadableException(
                    $"{path} is a folder.",
                    "keel works on a whole disk or an image of one.",
                    "Name a block device such as /dev/sda, or an image file.");
            case UnixFileKind.Pipe or UnixFileKind.CharacterDevice or UnixFileKind.Socket:
                throw new UnreadableException(
                    $"{path} is not a disk.",
                    "It is a device or pipe without a size.",
                    "Name a block device such as /dev/sda, or an image file.");
            default:
                break;
        }

        var full = LinuxNative.FullPath(path) ?? Path.GetFullPath(path);
        if (ParentOfPartition(full) is { } parent)
        {
            throw new UnreadableException(
                $"{path} is a partition, not a disk.",
                $"It is a part of {parent}, and the boot chain starts at the disk's first sector.",
                $"Name the whole disk: {parent}");
        }

        return full;
    }

    /// <summary>
    /// Whether two paths name one disk: the same device or file, by whatever names, links or device files they are reached.
    /// </summary>
    public static bool IsSame(string one, string other)
    {
        if (one == other) return true;
        if (LinuxNative.StatOf(one) is not { } first || LinuxNative.StatOf(other) is not { } second || first.Kind != second.Kind)
            return false;
        return first.Kind == UnixFileKind.BlockDevice ? first.Device == second.Device : first.Id == second.Id;
    }

    /// <summary>
    /// What is the same for all names of one disk or file, and for nothing else; the path itself where nothing is there.
    /// </summary>
    public static string KeyOf(string path) => LinuxNative.StatOf(path) switch
    {
        { Kind: UnixFileKind.BlockDevice } device => $"device {device.Device}",
        { Kind: UnixFileKind.Regular } file => $"file {file.Id}",
        _ => path
    };

    /// <summary>True for a Linux block device.</summary>
    public static bool IsBlockDevice(string fullPath) =>
        LinuxNative.KindOf(fullPath) == UnixFileKind.BlockDevice;

    /// <summary>
    /// Whether it is a disk built into this computer: a real one, not an image behind a loop device, not plugged in over USB.
    /// </summary>
    public static bool IsDiskOfThisComputer(string path)
    {
        if (!IsBlockDevice(path)) return false;
        if (FolderOf(Resolve(path)) is not { } device) return false;
        return ComputerDisks.IsReal(device) && !device.Contains("/usb", StringComparison.Ordinal);
    }

    /// <summary>
    /// The whole disks of this computer, as the kernel lists them: without partitions, and without devices that have no size.
    /// </summary>
    public static IReadOnlyList<string> WholeDisks()
    {
        if (!Directory.Exists(BlockDevices)) return [];
        return
        [
            .. Directory.GetFileSystemEntries(BlockDevices).Order(StringComparer.Ordinal)
                .Where(folder => !File.Exists($"{folder}/partition") && SizeOf(folder) > 0)
                .Select(folder => $"/dev/{Path.GetFileName(folder)}")
        ];
    }

    private static long SizeOf(string folder)
    {
        try
        {
            return File.Exists($"{folder}/size") && long.TryParse(File.ReadAllText($"{folder}/size"), out var sectors)
                ? sectors
                : 0;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return 0;
        }
    }

    /// <summary>
    /// The kernel's folder of a block device, with all links followed; by its number, since a device file may have any name. Null
    /// for what is none.
    /// </summary>
    internal static string? FolderOf(string devicePath) =>
        LinuxNative.StatOf(devicePath) is { Kind: UnixFileKind.BlockDevice } status
            ? LinuxNative.FullPath($"/sys/dev/block/{status.Device}")
            : null;

    private static string? ParentOfPartition(string fullPath) =>
        FolderOf(fullPath) is { } folder && File.Exists($"{folder}/partition")
            ? $"/dev/{Path.GetFileName(Path.GetDirectoryName(folder))!.Replace('!', '/')}"
            : null;
}
