namespace Keel.Core.Disks.Virtual;

/// <summary>Looks names up in a folder as Windows would.</summary>
internal static class FileNames
{
    /// <summary>
    /// A file of that name, whatever its letters' case, links followed; null for none, for what is no plain name, and for a
    /// link that leads out of the folder.
    /// </summary>
    public static string? InFolder(string folder, string name) =>
        Found(folder, name) is { } found && LinuxNative.FullPath(found) is { } full && IsIn(folder, full) ? full : null;

    /// <summary>Whether a full path is of something in a folder.</summary>
    public static bool IsIn(string folder, string fullPath) =>
        LinuxNative.FullPath(folder) is { } full && Path.GetDirectoryName(fullPath) == full;

    private static string? Found(string folder, string name)
    {
        if (name.Length == 0 || name is "." or ".." || name.Contains('/', StringComparison.Ordinal)) return null;
        var exact = Path.Combine(folder, name);
        if (File.Exists(exact)) return exact;
        try
        {
            return Directory.EnumerateFiles(folder)
                .FirstOrDefault(path => Path.GetFileName(path).Equals(name, StringComparison.OrdinalIgnoreCase));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }
}
