using Keel.Core.Errors;

namespace Keel.Core.Disks.Virtual;

/// <summary>
/// Finds and opens the files that a differencing disk lies over, in its folder; elsewhere only where that is allowed.
/// </summary>
internal sealed class ParentFiles(DiskTerms terms)
{
    private const int DeepestChain = 64;
    private readonly List<DiskFile> opened = [];

    /// <summary>The files that were opened, to be disposed of with the disk.</summary>
    public IReadOnlyList<DiskFile> Opened => opened;

    /// <summary>The disk in a file, its parents opened with it.</summary>
    /// <exception cref="UnreadableException">It, or a parent, is damaged, missing, or not the one that is meant.</exception>
    /// <exception cref="RefusedException">A parent lies in another folder.</exception>
    public IVirtualDisk Open(DiskFile file, FileFormat format)
    {
        if (format == FileFormat.Vhdx) return VhdxDisk.Open(file, claim => OpenParent(file.Path, claim, FileFormat.Vhdx));
        var contents = VhdContents.Read(file);
        var parent = contents.IsDifferencing
            ? OpenParent(
                file.Path,
                new ParentClaim(VhdParentNames.Of(file, contents.Header!.Value), contents.Header.Value.ParentId),
                FileFormat.Vhd)
            : null;
        return new VhdDisk(file, contents, parent);
    }

    /// <summary>Closes what was opened, after a failure.</summary>
    public void Close()
    {
        foreach (var file in opened) file.Dispose();
    }

    private IVirtualDisk OpenParent(string child, ParentClaim claim, FileFormat format)
    {
        if (opened.Count >= DeepestChain)
            throw VirtualDiskErrors.Damaged(FileFormats.Name(format), "the chain of its parents has no end");
        var path = Find(child, claim);
        var file = DiskFile.Open(path);
        opened.Add(file);
        if (DiskPath.IsSame(child, file.Path) || opened.Count(other => DiskPath.IsSame(other.Path, file.Path)) > 1)
            throw VirtualDiskErrors.Damaged(FileFormats.Name(format), "it says that it differs from itself");
        if (FileFormats.Of(file) != format) throw Another(path, child);
        var disk = Open(file, format);
        var id = disk is VhdxDisk vhdx ? vhdx.DataWriteId : ((VhdDisk)disk).Id;
        return id == claim.Id ? disk : throw Another(path, child);
    }

    /// <summary>A file of the name in the child's folder; else the relative path, where it may be opened.</summary>
    private string Find(string child, ParentClaim claim)
    {
        var folder = Path.GetDirectoryName(child)!;
        foreach (var name in claim.Names.Select(LastName))
        {
            if (FileNames.InFolder(folder, name) is { } beside) return beside;
        }

        foreach (var name in claim.Names.Where(IsRelative))
        {
            var path = LinuxNative.FullPath(Path.Combine(folder, name.Replace('\\', '/')));
            if (path is null || !File.Exists(path)) continue;
            if (!FileNames.IsIn(folder, path) && !terms.MayOpen(path)) throw Elsewhere(child, path);
            return path;
        }

        throw new UnreadableException(
            $"{child} holds only what differs from another disk, which is not there.",
            $"It names {string.Join(" and ", claim.Names.Take(2))}.",
            $"Put that file into the folder {folder}, and run the same command again.");
    }

    private static string LastName(string path) => path[(path.LastIndexOfAny(['\\', '/', ':']) + 1)..];

    private static bool IsRelative(string path) =>
        path.Length > 0 && path[0] is not ('\\' or '/') && !path.Contains(':', StringComparison.Ordinal);

    private static UnreadableException Another(string path, string child) => new(
        $"{path} is not the disk that {child} differs from, or was changed since.",
        "The two have other identifiers than they should.",
        "Find the file that they were made with. Writing to a disk that others differ from breaks them.");

    /// <summary>The error for a file that lies in another folder, and that nobody agreed to.</summary>
    public static RefusedException Elsewhere(string image, string path) => new(
        $"{image} names a file outside of its folder, and nothing was opened.",
        $"It names {path}; an image can name any file of this computer.",
        "If that is right, run the same command again with --parents, or put the file beside it.");
}
