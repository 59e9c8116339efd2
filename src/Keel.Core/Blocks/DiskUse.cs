using Keel.Core.Errors;

namespace Keel.Core.Blocks;

/// <summary>Whether the running system uses a disk: mounts, swap, and devices built on it.</summary>
public static class DiskUse
{
    /// <summary>Refuses a disk that is in use.</summary>
    /// <exception cref="RefusedException">Names who uses it and how to end that.</exception>
    public static void RefuseIfInUse(DiskFile disk)
    {
        foreach (var device in DevicesOf(disk))
        {
            if (MountOf(device) is { } mountPoint)
                throw InUse(disk, $"{device} is mounted at {mountPoint}.", $"Unmount it (umount {mountPoint}) and run the same command again.");
            if (IsSwap(device))
                throw InUse(disk, $"{device} is used as swap space.", $"Switch it off (swapoff {device}) and run the same command again.");
            if (HolderOf(device) is { } holder)
                throw InUse(disk, $"{device} is a part of {holder}.", $"Take {holder} apart first (device mapper, RAID or LVM), and run the same command again.");
        }
    }

    private static RefusedException InUse(DiskFile disk, string why, string todo) =>
        new($"{disk.Path} is in use, and nothing was written.", why, todo);

    private static IEnumerable<string> DevicesOf(DiskFile disk)
    {
        var roots = disk.IsBlockDevice ? [Path.GetFileName(disk.Path)] : LoopsOver(disk.Path);
        foreach (var name in roots)
        {
            yield return $"/dev/{name}";
            var folder = $"/sys/class/block/{name}/";
            if (!Directory.Exists(folder)) continue;
            foreach (var part in Directory.GetDirectories(folder).Where(part => File.Exists($"{part}/partition")))
                yield return $"/dev/{Path.GetFileName(part)}";
        }
    }

    /// <summary>Loop devices that stand on an image file.</summary>
    private static List<string> LoopsOver(string imagePath)
    {
        var loops = new List<string>();
        if (!Directory.Exists("/sys/class/block")) return loops;
        foreach (var folder in Directory.GetDirectories("/sys/class/block", "loop*"))
        {
            if (ReadLines($"{folder}/loop/backing_file").FirstOrDefault() == imagePath) loops.Add(Path.GetFileName(folder));
        }

        return loops;
    }

    private static string? MountOf(string device) => ReadLines("/proc/mounts")
        .Select(line => line.Split(' '))
        .Where(fields => fields.Length > 1 && Resolved(fields[0]) == device)
        .Select(fields => fields[1].Replace("\\040", " ", StringComparison.Ordinal))
        .FirstOrDefault();

    private static bool IsSwap(string device) => ReadLines("/proc/swaps").Any(line => Resolved(line.Split(' ')[0]) == device);

    private static string? HolderOf(string device)
    {
        var folder = $"/sys/class/block/{Path.GetFileName(device)}/holders";
        return Directory.Exists(folder)
            ? Directory.GetFileSystemEntries(folder).Select(holder => $"/dev/{Path.GetFileName(holder)}").FirstOrDefault()
            : null;
    }

    private static string Resolved(string path) =>
        path.StartsWith("/dev/", StringComparison.Ordinal) && File.Exists(path)
            ? File.ResolveLinkTarget(path, returnFinalTarget: true)?.FullName ?? path
            : path;

    private static string[] ReadLines(string path)
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
