using Keel.Core.Errors;

namespace Keel.Core.Disks;

/// <summary>
/// Whether the running system uses a disk: mounts in any namespace, swap, devices built on it, programs that hold it.
/// </summary>
/// <remarks>Devices are compared by number and files by inode: one thing can have many paths.</remarks>
public static class DiskUse
{
    private const string BlockDevices = "/sys/class/block";

    /// <summary>Refuses a disk that is in use.</summary>
    /// <param name="fullPath">A block device or an image, links resolved.</param>
    /// <exception cref="RefusedException">Names who uses it and how to end that.</exception>
    public static void RefuseIfInUse(string fullPath)
    {
        if (Find(fullPath) is { } use) throw use;
    }

    /// <summary>Who uses a disk, and how to end that; null where nobody does.</summary>
    /// <param name="fullPath">A block device or an image, links resolved.</param>
    public static RefusedException? Find(string fullPath)
    {
        foreach (var name in DevicesOf(fullPath))
        {
            var device = $"/dev/{name}";
            if (MountOf(name) is { } mountPoint)
            {
                return InUse(
                    fullPath,
                    $"{device} is mounted at {mountPoint}.",
                    $"Unmount it (umount {mountPoint}) and run the same command again.");
            }

            if (IsSwap(name))
            {
                return InUse(
                    fullPath,
                    $"{device} is used as swap space.",
                    $"Switch it off (swapoff {device}) and run the same command again.");
            }

            if (HolderOf(name) is { } holder)
            {
                return InUse(
                    fullPath,
                    $"{device} is a part of {holder}.",
                    $"Take {holder} apart first (device mapper, RAID or LVM), and run the same command again.");
            }

            if (IsClaimed(device)) return HeldByAnother(fullPath);
        }

        return null;
    }

    /// <summary>The error for a disk that another program has claimed or locked.</summary>
    internal static RefusedException HeldByAnother(string fullPath)
    {
        var holders = ProgramsWith(fullPath);
        return InUse(
            fullPath,
            holders.Count > 0
                ? $"It is held by {string.Join(" and ", holders.Take(3))}."
                : "Another program, or the kernel itself, has claimed it for itself.",
            "End that program, or detach the disk from it, and run the same command again.");
    }

    private static RefusedException InUse(string path, string why, string todo) =>
        new($"{path} is in use, and nothing was written.", why, todo);

    /// <summary>The names of the disk's device with its partitions; for an image, those of every loop device over it.</summary>
    private static IEnumerable<string> DevicesOf(string fullPath)
    {
        var roots = DiskPath.IsBlockDevice(fullPath) ? [NameOf(fullPath)]
            : LinuxNative.StatOf(fullPath) is { } status ? LoopDevices.Over(status.Id) : [];
        foreach (var name in roots)
        {
            yield return name;
            var folder = $"{BlockDevices}/{name}/";
            if (!Directory.Exists(folder)) continue;
            foreach (var part in Directory.GetDirectories(folder).Where(part => File.Exists($"{part}/partition")))
                yield return Path.GetFileName(part);
        }
    }

    /// <summary>The kernel's name of a device; its path may be any.</summary>
    private static string NameOf(string devicePath) => Path.GetFileName(DiskPath.FolderOf(devicePath) ?? devicePath);

    private static string NumberOf(string name) => Lines($"{BlockDevices}/{name}/dev").FirstOrDefault() ?? "";

    /// <summary>Where a device is mounted, in whatever namespace; null where it is not.</summary>
    private static string? MountOf(string name)
    {
        const int numberField = 2, placeField = 4;
        var number = NumberOf(name);
        if (number.Length == 0) return null;
        return MountTables().SelectMany(Lines)
            .Select(line => line.Split(' '))
            .Where(fields => fields.Length > placeField && fields[numberField] == number)
            .Select(fields => fields[placeField].Replace("\\040", " ", StringComparison.Ordinal))
            .FirstOrDefault();
    }

    /// <summary>One table a mount namespace, this one's first.</summary>
    private static IEnumerable<string> MountTables()
    {
        yield return "/proc/self/mountinfo";
        var seen = new HashSet<string> { NamespaceOf("/proc/self") ?? "" };
        foreach (var process in Processes())
        {
            if (NamespaceOf(process) is { } space && seen.Add(space)) yield return $"{process}/mountinfo";
        }
    }

    private static string? NamespaceOf(string process)
    {
        try
        {
            return File.ResolveLinkTarget($"{process}/ns/mnt", returnFinalTarget: false)?.Name;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    private static IEnumerable<string> Processes() => Directory.Exists("/proc")
        ? Directory.GetDirectories("/proc").Where(folder => Path.GetFileName(folder).All(char.IsAsciiDigit))
        : [];

    private static bool IsSwap(string name) =>
        Lines("/proc/swaps")
            .Select(line => line.Split(' ')[0])
            .Any(path =>
                path.StartsWith("/dev/", StringComparison.Ordinal)
                    && LinuxNative.StatOf(path)?.Device.ToString() == NumberOf(name));

    private static string? HolderOf(string name)
    {
        var folder = $"{BlockDevices}/{name}/holders";
        return Directory.Exists(folder)
            ? Directory.GetFileSystemEntries(folder).Select(holder => $"/dev/{Path.GetFileName(holder)}").FirstOrDefault()
            : null;
    }

    private static bool IsClaimed(string device)
    {
        if (!File.Exists(device)) return false;
        using var probe = LinuxNative.OpenUnclaimed(device);
        return probe.IsInvalid && LinuxNative.LastError == LinuxNative.Busy;
    }

    /// <summary>The programs that have a disk open, apart from this one: "qemu (process 4711)".</summary>
    private static List<string> ProgramsWith(string fullPath)
    {
        var found = new List<string>();
        if (LinuxNative.StatOf(fullPath) is not { } wanted) return found;
        foreach (var process in Processes().Where(process => Path.GetFileName(process) != $"{Environment.ProcessId}"))
        {
            if (!HasOpen(process, wanted)) continue;
            var name = Lines($"{process}/comm").FirstOrDefault() ?? "a program";
            found.Add($"{name} (process {Path.GetFileName(process)})");
        }

        return found;
    }

    private static bool HasOpen(string process, UnixFileStatus wanted)
    {
        try
        {
            return Directory.GetFileSystemEntries($"{process}/fd").Any(entry => LinuxNative.StatOf(entry) is { } open
                && (wanted.Kind == UnixFileKind.BlockDevice
                    ? open.Kind == UnixFileKind.BlockDevice && open.Device == wanted.Device
                    : open.Id == wanted.Id));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return false;
        }
    }

    private static string[] Lines(string path)
    {
        try
        {
            return File.ReadAllLines(path);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return [];
        }
    }
}
