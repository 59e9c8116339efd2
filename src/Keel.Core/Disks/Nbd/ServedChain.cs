using Keel.Core.Disks.Virtual;
using Keel.Core.Errors;

namespace Keel.Core.Disks.Nbd;

/// <summary>
/// Resolves all files of an image that a helper is to serve. Who makes an image can name any file of this computer in it: each
/// must lie in the image's folder, links followed, or be agreed to. What keel can't follow is refused, and never left to the
/// helper.
/// </summary>
internal sealed class ServedChain(DiskTerms terms)
{
    private const int DeepestChain = 64;
    private readonly HashSet<FileId> seen = [];

    /// <param name="path">The image, links followed.</param>
    /// <param name="format">What it is.</param>
    /// <exception cref="RefusedException">A file outside of the folder is named.</exception>
    /// <exception cref="UnreadableException">A file is missing or damaged, or the chain has no end.</exception>
    public ServedNode Resolve(string path, FileFormat format)
    {
        var id = LinuxNative.StatOf(path)?.Id;
        if (id is null || !seen.Add(id.Value) || seen.Count > DeepestChain)
            throw VirtualDiskErrors.Damaged(FileFormats.Name(format), "it names itself as a part of itself");
        using var file = DiskFile.Open(path);
        return format switch
        {
            FileFormat.Qcow2 => OfQcow2(file),
            FileFormat.Vmdk => OfVmdk(file),
            FileFormat.Vhd => new ServedNode("vpc", path),
            _ => new ServedNode(FileFormats.Name(format).ToLowerInvariant(), path)
        };
    }

    private ServedNode OfQcow2(DiskFile file)
    {
        var head = Qcow2Head.Read(file);
        return new ServedNode("qcow2", file.Path)
        {
            DataFile = head.DataFile is { } data ? Named(file.Path, data) : null,
            Backing = head.Backing is { } backing ? BackingOf(file.Path, backing, head.BackingFormat) : null
        };
    }

    private ServedNode OfVmdk(DiskFile file)
    {
        var text = VmdkText.IsSparse(file) ? VmdkText.OfSparse(file) : VmdkText.OfText(file);
        return new ServedNode("vmdk", file.Path)
        {
            IsPacked = text.IsPacked,
            Extents = [.. text.Extents.Select(extent => extent with { Path = ExtentOf(file.Path, extent) })],
            Backing = text.Parent is { } parent ? BackingOf(file.Path, parent, "vmdk") : null
        };
    }

    private string ExtentOf(string image, VmdkExtent extent)
    {
        var path = Named(image, extent.Path);
        using var file = DiskFile.Open(path);
        if (!seen.Add(LinuxNative.StatOf(path)!.Id))
            throw VirtualDiskErrors.Damaged("VMDK", "it names one file for two of its parts, or itself");
        if (extent.FirstSector is null == extent.Kind is "FLAT" && extent.Kind is "FLAT" or "VMFS")
            throw VirtualDiskErrors.Damaged("VMDK", "it does not say as usual where a part of it begins in its file");
        if (extent.Kind is "FLAT" or "VMFS") return path;
        if (!VmdkText.IsSparse(file)) throw VirtualDiskErrors.Damaged("VMDK", $"its part {path} is none");
        _ = VmdkText.OfSparse(file);
        return path;
    }

    private ServedNode BackingOf(string image, string name, string? format)
    {
        var path = Named(image, name);
        using var file = DiskFile.Open(path);
        var found = file.IsBlockDevice ? FileFormat.Raw : FileFormats.Of(file);
        var said = format switch
        {
            null or "" => found,
            "raw" => FileFormat.Raw,
            "qcow2" => FileFormat.Qcow2,
            "vmdk" => FileFormat.Vmdk,
            "vdi" => FileFormat.Vdi,
            "vpc" => FileFormat.Vhd,
            "vhdx" => FileFormat.Vhdx,
            _ => throw VirtualDiskErrors.Damaged(FileFormats.Name(found), $"what it lies over is said to be {format}")
        };
        return Resolve(path, said);
    }

    /// <summary>The file that a name in an image means, links followed.</summary>
    private string Named(string image, string name)
    {
        if (HasProtocol(name)) throw NoFile(image, name);
        var folder = Path.GetDirectoryName(image)!;
        var path = FileNames.InFolder(folder, name) ?? LinuxNative.FullPath(Path.Combine(folder, name.Replace('\0', '_')))
            ?? throw Missing(image, name);
        return FileNames.IsIn(folder, path) || terms.MayOpen(path) ? path : throw ParentFiles.Elsewhere(image, path);
    }

    /// <summary>
    /// Whether the helper would take a name for something else than a file: a letter or more, and then a colon.
    /// </summary>
    private static bool HasProtocol(string name)
    {
        var colon = name.IndexOf(':', StringComparison.Ordinal);
        var slash = name.IndexOf('/', StringComparison.Ordinal);
        return colon >= 0 && (slash < 0 || colon < slash);
    }

    private static RefusedException NoFile(string image, string name) => new(
        $"{image} is made of something that is no file, and nothing was opened.",
        $"It names {name}; an image can name anything that a helper can reach.",
        "Put what it means beside it as a file, and let its program name that.");

    private static UnreadableException Missing(string image, string name) => new(
        $"A file that {image} is made of is not there.",
        $"It names {name}.",
        $"Put that file into the folder {Path.GetDirectoryName(image)}, and run the same command again.");
}
