using System.Reflection.PortableExecutable;
using Keel.Core.Errors;
using Keel.Core.Store;

namespace Keel.Core.Windows;

/// <summary>Where boot files can be recreated from: an installation's own copies, or an installation medium.</summary>
public sealed class BootFileSource
{
    private const int FilesLimit = 20_000, DepthLimit = 4;
    private const string MediumManager = @"efi\boot\bootx64.efi";
    private static readonly string[] SharedFolders = ["Fonts", "Resources"];
    private readonly IFileTree tree;
    private readonly string top;
    private readonly bool isMedium;

    private BootFileSource(IFileTree tree, string top, bool isMedium, WindowsInstallation? installation)
    {
        this.tree = tree;
        this.top = top;
        this.isMedium = isMedium;
        Installation = installation;
    }

    /// <summary>The installation whose copies these are; null for a folder.</summary>
    public WindowsInstallation? Installation { get; }

    /// <summary>Where the files come from, as it is told to people.</summary>
    public string Name => Installation is null ? tree.Name : $"{Installation.Folder} on {Installation.Volume}";

    /// <summary>The copies of an installation on the machine.</summary>
    public static BootFileSource Of(WindowsInstallation installation) =>
        new(new VolumeTree(installation.Volume, installation.Folder), "Boot", isMedium: false, installation);

    /// <summary>The copies in a folder: a Windows folder, the volume above one, or a medium; null where it holds none.</summary>
    public static BootFileSource? TryOf(IFileTree tree)
    {
        foreach (var top in (string[])[@"Windows\Boot", "Boot"])
        {
            if (tree.FolderExists($@"{top}\{BootFiles.Bios.CopiesFolder}")
                || tree.FolderExists($@"{top}\{BootFiles.Uefi.CopiesFolder}"))
            {
                return new BootFileSource(tree, top, isMedium: false, installation: null);
            }
        }

        return tree.FileExists(MediumManager) || tree.FileExists("bootmgr")
            ? new BootFileSource(tree, "", isMedium: true, installation: null)
            : null;
    }

    /// <summary>Whether it has a boot manager for that kind of firmware.</summary>
    public bool Has(BootFiles files) => FilesFor(files, processor: null).Any(copy => copy.Target == files.ManagerPath);

    /// <summary>All boot files for a kind of firmware.</summary>
    /// <param name="files">Which files the firmware needs.</param>
    /// <param name="processor">The processor of the machine, which the fallback file is named after; null for the usual
    ///     one.</param>
    public IReadOnlyList<BootFileCopy> FilesFor(BootFiles files, Machine? processor)
    {
        var copies = isMedium ? OfMedium(files) : OfInstallation(files);
        var list = copies.Take(FilesLimit).ToList();
        if (files.IsUefi
            && list.Find(copy => copy.Target.Equals(files.ManagerPath, StringComparison.OrdinalIgnoreCase)) is { } manager)
        {
            list.Add(manager with { Target = FallbackFile.PathFor(processor) });
        }

        return list;
    }

    /// <exception cref="UnreadableException">The copy can't be read.</exception>
    public byte[] Read(BootFileCopy copy) => tree.Read(copy.Source);

    private IEnumerable<BootFileCopy> OfInstallation(BootFiles files)
    {
        var folder = $@"{top}\{files.CopiesFolder}";
        foreach (var copy in Tree(folder, files.StoreFolder))
            yield return IsBesideManager(copy, files) ? copy with { Target = $@"\{NameOf(copy.Target)}" } : copy;
        foreach (var copy in SharedFolders.SelectMany(name => Tree($@"{top}\{name}", $@"{files.StoreFolder}\{name}")))
            yield return copy;
    }

    /// <summary>BIOS keeps the manager and its small companion at the top of the volume, the rest in a folder.</summary>
    private static bool IsBesideManager(BootFileCopy copy, BootFiles files) =>
        !files.IsUefi
            && NameOf(copy.Target).ToLowerInvariant() is "bootmgr" or "bootnxt"
            && copy.Target.LastIndexOf('\\') == files.StoreFolder.Length;

    private IEnumerable<BootFileCopy> OfMedium(BootFiles files)
    {
        if (!files.IsUefi)
        {
            foreach (var copy in Tree(
                "",
                "",
                depth: DepthLimit).Where(copy => copy.Target.Equals(files.ManagerPath, StringComparison.OrdinalIgnoreCase)))
            {
                yield return copy;
            }
        }
        else if (Tree(
            @"efi\boot",
            "").FirstOrDefault(copy => copy.Source.Equals(MediumManager, StringComparison.OrdinalIgnoreCase)) is { } manager)
        {
            yield return manager with { Target = files.ManagerPath };
        }

        foreach (var copy in Tree(
            files.IsUefi ? @"efi\microsoft\boot" : "boot",
            files.StoreFolder).Where(copy => BelongsToSystems(copy, files)))
        {
            yield return copy;
        }
    }

    /// <summary>A medium's folder also holds what only a medium needs: its own store, its ramdisk files.</summary>
    private static bool BelongsToSystems(BootFileCopy copy, BootFiles files)
    {
        var rest = copy.Target[(files.StoreFolder.Length + 1)..];
        return rest.Contains('\\', StringComparison.Ordinal) || rest.StartsWith("memtest", StringComparison.OrdinalIgnoreCase);
    }

    /// <summary>All files below a folder.</summary>
    private IEnumerable<BootFileCopy> Tree(string folder, string target, int depth = 0)
    {
        foreach (var (name, isFolder, size) in tree.List(folder))
        {
            var source = folder.Length > 0 ? $@"{folder}\{name}" : name;
            if (!isFolder)
            {
                yield return new BootFileCopy($@"{target}\{name}", source, size);
            }
            else if (depth < DepthLimit)
            {
                foreach (var copy in Tree(source, $@"{target}\{name}", depth + 1)) yield return copy;
            }
        }
    }

    private static string NameOf(string target) => Volumes.VolumeExtensions.NameOf(target);
}
