namespace Keel.Core.Disks;

/// <summary>The kernel's loop devices: which file stands behind which.</summary>
internal static class LoopDevices
{
    private const string BlockDevices = "/sys/class/block";

    /// <summary>The names of the loop devices over a file, by whatever path they were given it.</summary>
    public static IReadOnlyList<string> Over(FileId file)
    {
        if (!Directory.Exists(BlockDevices)) return [];
        return
        [
            .. Directory.GetFileSystemEntries(BlockDevices, "loop*")
                .Where(folder => File.Exists($"{folder}/loop/backing_file"))
                .Select(folder => Path.GetFileName(folder)!)
                .Where(name => IdOf(name) == file)
        ];
    }

    /// <summary>The file behind a loop device; null where it is none, or its file has no name here.</summary>
    public static UnixFileStatus? BackingOf(string devicePath)
    {
        var name = Path.GetFileName(DiskPath.FolderOf(devicePath) ?? devicePath);
        if (NamedBacking(name) is not { } path || LinuxNative.StatOf(path) is not { } status) return null;
        return IdOf(name) is not { } id || id == status.Id ? status : null;
    }

    private static FileId? IdOf(string name)
    {
        using var device = LinuxNative.OpenForReading($"/dev/{name}");
        if (!device.IsInvalid && LinuxNative.LoopBacking(device) is { } id) return id;
        return NamedBacking(name) is { } path ? LinuxNative.StatOf(path)?.Id : null;
    }

    private static string? NamedBacking(string name)
    {
        try
        {
            var path = $"{BlockDevices}/{name}/loop/backing_file";
            return File.Exists(path) ? File.ReadAllText(path).TrimEnd('\n') : null;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }
}
