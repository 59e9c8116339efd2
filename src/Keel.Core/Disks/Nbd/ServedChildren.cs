using Keel.Core.Disks.Virtual;
using Keel.Core.Errors;

namespace Keel.Core.Disks.Nbd;

/// <summary>
/// Files beside an image that lie over it by its name (qcow2, VMDK): snapshots and linked clones of virtual machines. They would
/// be broken by a write to it.
/// </summary>
internal static class ServedChildren
{
    private const int MostFiles = 1000;

    /// <exception cref="RefusedException">A file beside it lies over it.</exception>
    public static void RefuseIfAny(string path)
    {
        var folder = Path.GetDirectoryName(path)!;
        foreach (var other in Beside(folder).Where(other => !DiskPath.IsSame(other, path)))
        {
            if (BackingOf(other) is { } name && IsNamed(folder, name, path)) throw VirtualDiskErrors.HasChildren(path, other);
        }
    }

    private static bool IsNamed(string folder, string name, string path) =>
        LinuxNative.FullPath(Path.Combine(folder, name)) is { } full && DiskPath.IsSame(full, path);

    private static IReadOnlyList<string> Beside(string folder)
    {
        try
        {
            return [.. Directory.EnumerateFiles(folder).Take(MostFiles)];
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return [];
        }
    }

    /// <summary>
    /// What a file lies over, as it names it; null for none, and for what can't be read, and so lies over nothing.
    /// </summary>
    private static string? BackingOf(string path)
    {
        try
        {
            if (LinuxNative.KindOf(path) != UnixFileKind.Regular) return null;
            using var file = DiskFile.Open(path);
            return FileFormats.ByHead(file) switch
            {
                FileFormat.Qcow2 => Qcow2Head.Read(file).Backing,
                FileFormat.Vmdk => (VmdkText.IsSparse(file) ? VmdkText.OfSparse(file) : VmdkText.OfText(file)).Parent,
                _ => null
            };
        }
        catch (KeelException)
        {
            return null;
        }
    }
}
