using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Volumes;

namespace Keel.Core.Chain.Checks;

/// <summary>
/// Start files that carry no signature of their own, held against the catalogs of their installation: a checksum that fits proves
/// nothing, since whoever alters a program puts it right. Only where the catalogs are few, and list most of these files.
/// </summary>
/// <param name="Altered">The finding for one that a copy of the same version proves to be another.</param>
/// <param name="Unlisted">The finding for one that nothing is known of.</param>
internal sealed record SignedStartFiles(FindingKind Altered, FindingKind Unlisted)
{
    private const int FilesLimit = 200;

    public static readonly FindingKind KernelAltered = new(
        "kernel-altered-quietly",
        Link.KernelFiles,
        Severity.Warning,
        "The kernel, or a file that it needs, is not as it was signed, though its checksum fits.",
        StartupScreens.InvalidHash,
        StartupScreens.AutomaticRepair);

    public static readonly FindingKind KernelUnlisted = new(
        "kernel-in-no-catalog",
        Link.KernelFiles,
        Severity.Note,
        "No catalog lists the kernel, or a file that it needs, as it stands there.",
        StartupScreens.InvalidHash);

    public static readonly FindingKind DriverAltered = new(
        "driver-altered-quietly",
        Link.StartDrivers,
        Severity.Warning,
        "The file of a driver that starts with Windows is not as it was signed, though its checksum fits.",
        StartupScreens.InvalidHash,
        StartupScreens.InaccessibleBootDevice);

    public static readonly FindingKind DriverUnlisted = new(
        "driver-in-no-catalog",
        Link.StartDrivers,
        Severity.Note,
        "No catalog lists the file of a driver that starts with Windows as it stands there.",
        StartupScreens.InvalidHash);

    public static readonly FindingKind CatalogGone = new(
        "driver-catalog-gone",
        Link.StartDrivers,
        Severity.Warning,
        "The catalog that a driver was installed with is gone: only its package has it still.",
        StartupScreens.InvalidHash,
        StartupScreens.InaccessibleBootDevice);

    /// <summary>Those of the kernel and what it needs.</summary>
    public static readonly SignedStartFiles OfKernel = new(KernelAltered, KernelUnlisted);

    /// <summary>Those of the drivers.</summary>
    public static readonly SignedStartFiles OfDrivers = new(DriverAltered, DriverUnlisted);

    /// <summary>What the catalogs say of files that are sound by themselves.</summary>
    public IReadOnlyList<Finding> Check(Machine machine, StartedWindows windows, IEnumerable<string> paths)
    {
        if (windows.IsNt5) return [];
        var unsigned = paths
            .Distinct(StringComparer.OrdinalIgnoreCase)
            .Where(path => IsUnsigned(machine.Programs.Look(windows.Volume, windows.Files, path)))
            .Take(FilesLimit)
            .ToList();
        if (unsigned.Count == 0 || !ListedFiles.IsCheap(windows.Files, windows.Folder)) return [];
        var catalogs = machine.Listed.CatalogsOf(windows.Volume, windows.Files, windows.Folder, unsigned);
        return catalogs.Count(path => path is not null) * 2 < unsigned.Count
            ? []
            : [.. unsigned.Zip(catalogs, (path, catalog) => Judge(machine, windows, path, catalog)).OfType<Finding>()];
    }

    /// <summary>A copy of the same version that a catalog lists, where it is another; null where there is none.</summary>
    public static SpareCopy? ProvenCopy(Machine machine, StartedWindows windows, string path)
    {
        var version = ProgramFile.VersionOf(windows.Files.OpenFile(path));
        if (version is null) return null;
        var standing = windows.Files.ReadFile(path);
        var copies = SpareCopies.Find(
            windows.Volume,
            windows.Files,
            windows.Folder,
            VolumeExtensions.NameOf(path),
            machine.Processor);
        var others = copies
            .Where(copy => copy.Version == version && !windows.Files.ReadFile(copy.Path).AsSpan().SequenceEqual(standing))
            .ToList();
        var paths = others.ConvertAll(copy => copy.Path);
        var listed = machine.Listed.CatalogsOf(windows.Volume, windows.Files, windows.Folder, paths);
        return others.Zip(listed).FirstOrDefault(one => one.Second is not null).First;
    }

    private static bool IsUnsigned(ProgramState state) =>
        state is { Condition: ProgramCondition.Sound, Content: { Signature: null } };

    private Finding? Judge(Machine machine, StartedWindows windows, string path, string? catalog)
    {
        var place = FilePlace.Of(windows.Volume, path);
        KnownFact[] where = [Fact.Path.Is(path), Fact.Volume.Is(windows.Volume.Ref)];
        if (catalog is not null)
        {
            return CatalogSearch.IsOfPackage(catalog)
                ? CatalogGone.At(place, [.. where, Fact.OtherPath.Is(catalog)])
                : null;
        }

        return ProvenCopy(machine, windows, path) is { } copy
            ? Altered.At(place, [.. where, Fact.OtherPath.Is(copy.Path), Fact.Version.Is($"{copy.Version}")])
            : Unlisted.At(place, where);
    }
}
