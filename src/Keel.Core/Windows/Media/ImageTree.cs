using Keel.Core.Disks;
using Keel.Core.Errors;

namespace Keel.Core.Windows.Media;

/// <summary>The image of an installation medium (ISO 9660) as a tree to copy from.</summary>
public sealed class ImageTree : IFileTree
{
    private const int MostEntries = 200_000, LimitBytes = 64 * 1024 * 1024;
    private const string FormatNotice = "README.TXT";
    private readonly string image;
    private readonly Dictionary<string, List<ArchiveEntry>> folders = new(StringComparer.OrdinalIgnoreCase) { [""] = [] };

    /// <summary>Reads the names of all that is in it.</summary>
    /// <exception cref="UnreadableException">It is no image of a medium, or one whose files keel does not see.</exception>
    public ImageTree(string image)
    {
        this.image = Path.GetFullPath(image);
        if (LinuxNative.KindOf(this.image) is not (UnixFileKind.Regular or UnixFileKind.BlockDevice))
        {
            throw new UnreadableException(
                $"{image} can't be copied from.",
                "It is neither a folder nor the image of a medium.",
                "Name an image of an installation medium, or the folder where it is mounted.");
        }

        using var reader = ArchiveReader.OfFile(this.image);
        for (var count = 0; count < MostEntries && reader.Next() is { } entry; count++) Add(entry);
        if (folders[""] is [{ IsFolder: false } only] && only.Path.Equals(FormatNotice, StringComparison.OrdinalIgnoreCase))
        {
            throw new UnreadableException(
                $"{image} can't be copied from.",
                "Its files are in a UDF file system, which keel does not read; the other one holds a notice only.",
                "Mount it (mount -o loop,ro) and name the folder.");
        }
    }

    /// <inheritdoc/>
    public string Name => image;

    /// <inheritdoc/>
    public bool FolderExists(string path) => folders.ContainsKey(path.Trim('\\'));

    /// <inheritdoc/>
    public bool FileExists(string path) => Find(path) is not null;

    /// <inheritdoc/>
    public IReadOnlyList<(string Name, bool IsFolder, long SizeBytes)> List(string path) =>
        folders.TryGetValue(path.Trim('\\'), out var found)
            ? [.. found.Select(entry => (NameOf(entry.Path), entry.IsFolder, entry.SizeBytes))]
            : [];

    /// <inheritdoc/>
    public byte[] Read(string path)
    {
        var wanted = Find(path) ?? throw new UnreadableException(
            $"{path} can't be copied from {image}.",
            "It is not in it.",
            "Name another medium.");
        using var reader = ArchiveReader.OfFile(image);
        for (var count = 0; count < MostEntries && reader.Next() is { } entry; count++)
        {
            if (!entry.IsFolder && entry.Path == wanted.Path) return reader.Read(LimitBytes);
        }

        throw new UnreadableException(
            $"{path} can't be copied from {image}.",
            "It was in it a moment ago, and is not there now.",
            "Check the image.");
    }

    private void Add(ArchiveEntry entry)
    {
        var at = entry.Path.LastIndexOf('\\');
        var folder = at < 0 ? "" : entry.Path[..at];
        if (!folders.TryGetValue(folder, out var inside)) inside = folders[folder] = [];
        inside.Add(entry);
        if (entry.IsFolder) folders.TryAdd(entry.Path, []);
    }

    private ArchiveEntry? Find(string path)
    {
        var trimmed = path.Trim('\\');
        var at = trimmed.LastIndexOf('\\');
        return folders.GetValueOrDefault(at < 0 ? "" : trimmed[..at])?.Find(entry =>
            !entry.IsFolder && entry.Path.Equals(trimmed, StringComparison.OrdinalIgnoreCase));
    }

    private static string NameOf(string path) => path[(path.LastIndexOf('\\') + 1)..];
}
