using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Volumes;
using Keel.Core.Windows;
using Keel.Core.Windows.Media;

namespace Keel.Core.Mending;

/// <summary>
/// Where copies of a Windows' files may be outside of it, the nearest first: in the recovery images of the machine, in another
/// Windows of the same build, in what was named. What a copy is worth is judged by whoever takes it.
/// </summary>
/// <param name="machine">The machine.</param>
/// <param name="installation">The Windows that is short of a file.</param>
/// <param name="named">What somebody named: media, folders, images of files.</param>
internal sealed class OutsideCopies(Machine machine, WindowsInstallation installation, IReadOnlyList<IFileTree> named)
{
    /// <summary>Every Windows has many more drivers than this.</summary>
    private const int LeastDrivers = 10;

    /// <summary>The copies of a file; what can't be read is passed over.</summary>
    /// <param name="path">From the top of its volume.</param>
    public IEnumerable<OutsideCopy> Of(string path)
    {
        var inside = path.StartsWith(installation.Folder + '\\', StringComparison.OrdinalIgnoreCase);
        var below = inside ? path[(installation.Folder.Length + 1)..] : null;
        if (below is not null && !IsRest())
        {
            foreach (var copy in OnMachine(below)) yield return copy;
        }

        foreach (var tree in named.Where(MayFit).OrderByDescending(Likeness))
        {
            foreach (var place in Places(path, below).Distinct(StringComparer.OrdinalIgnoreCase))
            {
                if (Read(tree, place) is { } copy) yield return copy;
            }
        }
    }

    private IEnumerable<OutsideCopy> OnMachine(string below)
    {
        foreach (var tree in RecoveryTrees())
        {
            if (Read(tree, $@"Windows\{below}") is { } copy) yield return copy;
        }

        foreach (var other in machine.Installations.Where(IsSibling))
        {
            if (Read(new VolumeTree(other.Volume, other.Folder), below) is { } copy) yield return copy;
        }
    }

    /// <summary>What is left of a deleted Windows is not filled up from another one, unless somebody names that.</summary>
    private bool IsRest() => installation.Volume.Files is not { } files
        || files.List($@"{installation.Folder}\System32\drivers").Count(file => !file.IsFolder) < LeastDrivers;

    private static IEnumerable<string> Places(string path, string? below) =>
        below is null
            ? [path.TrimStart('\\'), VolumeExtensions.NameOf(path)]
            : [below, $@"Windows\{below}", path.TrimStart('\\'), VolumeExtensions.NameOf(path)];

    private bool IsSibling(WindowsInstallation other) =>
        other != installation && WindowsBuilds.AreOfSameFiles(other.Build, installation.Build);

    private List<WimTree> RecoveryTrees()
    {
        var trees = new List<WimTree>();
        foreach (var place in RecoveryPlaces.Of(machine))
        {
            if (machine.Images.Of(place.Volume, place.File) is not { } file) continue;
            trees.AddRange(file.Images.Select(image => new WimTree(file, image)).Where(MayFit));
        }

        return trees;
    }

    /// <summary>An image of another build or processor has nothing that would work here.</summary>
    private bool MayFit(IFileTree tree) => tree is not WimTree { Image: var image }
        || ((image.Build is not { } build || WindowsBuilds.AreOfSameFiles(build, installation.Build))
            && (image.Processor is not { } processor || machine.Processor is not { } own || processor == own));

    /// <summary>Of a medium's images, that of the same revision comes first, and what is no image before all.</summary>
    private int Likeness(IFileTree tree) => tree is not WimTree { Image: var image } ? 2
        : image.Revision is { } revision && revision == installation.Revision ? 1
        : 0;

    private static OutsideCopy? Read(IFileTree tree, string place)
    {
        try
        {
            if (!tree.FileExists(place)) return null;
            var bytes = tree.Read(place);
            return new OutsideCopy($@"\{place} in {tree.Name}", bytes, ProgramFile.VersionOf(new Blocks.MemoryBlocks(bytes)));
        }
        catch (KeelException)
        {
            return null;
        }
    }
}
