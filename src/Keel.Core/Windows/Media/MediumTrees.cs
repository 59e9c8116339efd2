using Keel.Core.Disks;
using Keel.Core.Errors;

namespace Keel.Core.Windows.Media;

/// <summary>What a place that somebody names has to copy from: a folder, an image of a medium, images of files in them.</summary>
public static class MediumTrees
{
    private const int MarkBytes = 8;

    /// <summary>Where media keep their images of files: first the Windows to install, then the one that installs it.</summary>
    private static readonly string[] Images = [@"sources\install.wim", @"sources\install.esd", @"sources\boot.wim"];

    /// <summary>The trees of a place, the widest first; images of files are opened by then, and stay open.</summary>
    /// <exception cref="UnreadableException">It is none of those, or can't be read.</exception>
    public static IReadOnlyList<IFileTree> Of(string place)
    {
        if (IsImageOfFiles(place)) return OfImage(place);
        if (LinuxNative.KindOf(place) is UnixFileKind.Regular or UnixFileKind.BlockDevice) return [new ImageTree(place)];
        var folder = new FolderTree(place);
        return
        [
            folder,
            .. Images.Select(folder.PathOf).OfType<string>().Where(IsImageOfFiles).SelectMany(OfImage)
        ];
    }

    private static List<WimTree> OfImage(string path)
    {
        var file = WimFile.Open(path, path);
        return [.. file.Images.Select(image => new WimTree(file, image))];
    }

    private static bool IsImageOfFiles(string path)
    {
        if (LinuxNative.KindOf(path) != UnixFileKind.Regular) return false;
        try
        {
            using var file = File.OpenRead(path);
            Span<byte> mark = stackalloc byte[MarkBytes];
            return file.ReadAtLeast(mark, MarkBytes, throwOnEndOfStream: false) == MarkBytes && WimFile.IsOne(mark);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return false;
        }
    }
}
