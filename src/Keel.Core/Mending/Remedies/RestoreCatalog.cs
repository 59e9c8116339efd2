using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>
/// Puts the catalog of a driver's package back where Windows looks for it, under the name that it had there: that of the
/// package's published INF, else its own.
/// </summary>
internal sealed class RestoreCatalog : IRemedy
{
    private const int InfLimitBytes = 4 * 1024 * 1024;

    public IReadOnlyList<FindingKind> Mends => [SignedStartFiles.CatalogGone];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (finding.Seen.Facts.Get(Fact.OtherPath) is not { } source || StartedWindows.Of(machine).Windows is not { } windows)
            return Attempt.Refused("file-volume-unreadable");
        var files = windows.Files;
        var root = $@"{windows.Folder}\{CatalogSearch.Folder}";
        var package = VolumeExtensions.FolderOf(source);
        string?[] names = [PublishedName(files, windows.Folder, package), VolumeExtensions.NameOf(source)];
        var name = names.OfType<string>().FirstOrDefault(name => IsFree(files, $@"{root}\{name}"));
        if (name is null) return Attempt.Refused("catalog-name-taken", Fact.Path.Is(root));
        var bytes = files.ReadFile(source, CatalogSearch.CatalogLimitBytes);
        if (Catalog.TryRead(bytes) is not { } catalog) return Attempt.Refused("catalog-unsigned", Fact.Path.Is(source));
        var target = $@"{root}\{name}";
        Remark? change = null;
        windows.Volume.Edit(writable => change = BootFileRenewal.WriteOne(writable, target, bytes));
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of("step.restore-catalog", Fact.Path.Is(name)),
            Remark.Of("line.file", Fact.Path.Is(target), Fact.Volume.Is(windows.Volume.Ref), Fact.Change.Is(change!)),
            Remark.Of("line.catalog-from-package", Fact.Path.Is(source), Fact.Signer.Is(catalog.Signer))));
    }

    /// <summary>A file that is no catalog is the lost one, damaged.</summary>
    private static bool IsFree(IVolume files, string path) =>
        !files.FileExists(path) || Catalog.TryRead(files.ReadFile(path, CatalogSearch.CatalogLimitBytes)) is null;

    /// <summary>The package's INF stands in Windows' own folder of them under a number, and so did its catalog.</summary>
    private static string? PublishedName(IVolume files, string windows, string package)
    {
        try
        {
            var own = files.List(package).FirstOrDefault(IsInf);
            if (own is null) return null;
            var bytes = files.ReadFile($@"{package}\{own.Name}", InfLimitBytes);
            var published = files.List($@"{windows}\INF").FirstOrDefault(file => IsInf(file)
                && file.Name.StartsWith("oem", StringComparison.OrdinalIgnoreCase)
                && file.SizeBytes == own.SizeBytes
                && files.ReadFile($@"{windows}\INF\{file.Name}", InfLimitBytes).AsSpan().SequenceEqual(bytes));
            return published is null ? null : Path.ChangeExtension(published.Name, ".cat");
        }
        catch (KeelException)
        {
            return null;                                        // its own name does as well
        }
    }

    private static bool IsInf(VolumeFile file) => !file.IsFolder
        && file.SizeBytes <= InfLimitBytes
        && file.Name.EndsWith(".inf", StringComparison.OrdinalIgnoreCase);
}
