using Keel.Core.Disks;
using Keel.Core.Errors;

namespace Keel.Core.Windows;

/// <summary>A folder of the running system as a tree to copy from, such as a mounted installation medium.</summary>
public sealed class FolderTree : IFileTree
{
    private const long LimitBytes = 64 * 1024 * 1024;

    private static readonly EnumerationOptions Everything = new()
    {
        AttributesToSkip = FileAttributes.None,
        IgnoreInaccessible = true
    };

    private readonly string top;

    /// <exception cref="UnreadableException">There is no such folder.</exception>
    public FolderTree(string folder)
    {
        top = LinuxNative.FullPath(folder) ?? Path.GetFullPath(folder);
        if (!Directory.Exists(top))
        {
            throw new UnreadableException(
                $"{folder} can't be copied from.",
                "It is not there, or not a folder.",
                "Name the folder where the installation medium or the other Windows is mounted.");
        }
    }

    /// <inheritdoc/>
    public string Name => top;

    /// <inheritdoc/>
    public bool FolderExists(string path) => Find(path) is { } found && Directory.Exists(found);

    /// <inheritdoc/>
    public bool FileExists(string path) => Find(path) is { } found && LinuxNative.KindOf(found) == UnixFileKind.Regular;

    /// <inheritdoc/>
    public IReadOnlyList<(string Name, bool IsFolder, long SizeBytes)> List(string path) =>
        Find(path) is { } found && Directory.Exists(found)
        ? [.. new DirectoryInfo(found)
            .EnumerateFileSystemInfos("*", Everything)
            .Where(item => item.LinkTarget is null)
            .Where(item => item is DirectoryInfo || LinuxNative.KindOf(item.FullName) == UnixFileKind.Regular)
            .Select(item => (item.Name, item is DirectoryInfo, item is FileInfo file ? file.Length : 0))]
        : [];

    /// <inheritdoc/>
    public byte[] Read(string path)
    {
        try
        {
            return HostFile.Read(Find(path) ?? throw new FileNotFoundException($"{path} is not in {top}"), LimitBytes);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnreadableException(
                $"{path} can't be copied from {top}.",
                $"The system says: {e.Message}",
                "Check the medium, and the permissions.",
                e);
        }
    }

    /// <summary>Where a file of it is, for this system; null where there is none.</summary>
    internal string? PathOf(string path) => Find(path);

    /// <summary>A link in the folder may lead out of it, to any file of this computer: that is not of the medium.</summary>
    private bool IsInside(string path) => LinuxNative.FullPath(path) is { } full
        && (full == top || full.StartsWith(top.TrimEnd('/') + "/", StringComparison.Ordinal));

    /// <summary>The path as the file system spells it; null where there is none, or it leads out of the folder.</summary>
    private string? Find(string path)
    {
        var found = top;
        foreach (var part in path.Split('\\', StringSplitOptions.RemoveEmptyEntries))
        {
            if (!Directory.Exists(found)) return null;
            var next = Directory
                .EnumerateFileSystemEntries(found, "*", Everything)
                .FirstOrDefault(entry => Path.GetFileName(entry).Equals(part, StringComparison.OrdinalIgnoreCase));
            if (next is null || !IsInside(next)) return null;
            found = next;
        }

        return found;
    }
}
