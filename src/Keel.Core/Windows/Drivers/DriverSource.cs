using System.Reflection.PortableExecutable;
using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Programs;
using Keel.Core.Volumes;

namespace Keel.Core.Windows.Drivers;

/// <summary>A driver of a disk controller that could be installed, and whether it is fit to be.</summary>
/// <param name="Tree">Where it is copied from.</param>
/// <param name="Folder">Its folder there.</param>
/// <param name="Package">What its INF says.</param>
public sealed record DriverSource(IFileTree Tree, string Folder, DriverPackage Package)
{
    private const int FoldersLimit = 20_000, DepthLimit = 4, InfLimitBytes = 4 * 1024 * 1024;

    /// <summary>The driver's file; empty where it is not fit.</summary>
    public byte[] File { get; private init; } = [];

    /// <summary>The catalog that lists it; null where it carries its own signature, or has none.</summary>
    public byte[]? Catalog { get; private init; }

    /// <summary>Whose signature proves it; null where none does.</summary>
    public string? Signer { get; private init; }

    /// <summary>Why it can't be installed; null where it can.</summary>
    public Remark? WhyNot { get; private init; }

    public Version? Version { get; private init; }

    /// <summary>The drivers of disk controllers in a tree, for one kind of processor, each looked at.</summary>
    public static IReadOnlyList<DriverSource> In(IFileTree tree, Machine processor, string top = "") =>
        [.. Infs(tree, top, DepthLimit).Select(inf => Of(tree, inf.Folder, inf.Name, processor)).OfType<DriverSource>()];

    private static IEnumerable<(string Folder, string Name)> Infs(IFileTree tree, string folder, int depth)
    {
        var entries = tree.List(folder);
        foreach (var (name, isFolder, size) in entries.Take(FoldersLimit))
        {
            if (!isFolder && size <= InfLimitBytes && name.EndsWith(".inf", StringComparison.OrdinalIgnoreCase))
                yield return (folder, name);
        }

        if (depth == 0) yield break;
        foreach (var (name, _, _) in entries.Where(entry => entry.IsFolder).Take(FoldersLimit))
        {
            foreach (var below in Infs(tree, At(folder, name), depth - 1)) yield return below;
        }
    }

    private static DriverSource? Of(IFileTree tree, string folder, string name, Machine processor)
    {
        try
        {
            var inf = InfFile.Read(tree.Read(At(folder, name)));
            return DriverPackage.Of(name, inf, processor) is { IsForController: true } package
                ? new DriverSource(tree, folder, package).Looked(inf, processor)
                : null;
        }
        catch (KeelException)
        {
            return null;                                        // one package that can't be read is no reason to take none
        }
    }

    private DriverSource Looked(InfFile inf, Machine processor)
    {
        var name = Package.Service.FileName;
        var folders = ((string[])[Folder, .. FoldersOf(inf, name)]).Distinct(StringComparer.OrdinalIgnoreCase);
        if (folders.FirstOrDefault(place => Tree.FileExists(At(place, name))) is not { } found)
            return this with { WhyNot = Remark.Of("driver.file-not-beside", Fact.Path.Is(name)) };
        var bytes = Tree.Read(At(found, name));
        var program = ProgramFile.TryRead(new MemoryBlocks(bytes));
        if (program is null || program.NeededBytes > bytes.Length)
            return this with { WhyNot = Remark.Of("driver.file-damaged", Fact.Path.Is(name)) };
        if (program.Machine != processor)
        {
            return this with
            {
                WhyNot = Remark.Of(
                    "driver.other-processor",
                    Fact.Path.Is(name),
                    Fact.Processor.Is(ProgramFile.NameOf(program.Machine)),
                    Fact.OtherProcessor.Is(ProgramFile.NameOf(processor)))
            };
        }

        return Proven(bytes);
    }

    private DriverSource Proven(byte[] bytes)
    {
        var file = new VolumeFile(Package.Service.FileName, IsFolder: false, bytes.Length, FileMarks.None);
        var reading = new FileReading(file.Name, file).With(bytes);
        if (reading.Wrong is not null)
            return this with { WhyNot = Remark.Of("driver.file-damaged", Fact.Path.Is(file.Name)) };
        var catalog = Package.Catalog is { } name && Tree.FileExists(At(Folder, name)) ? Tree.Read(At(Folder, name)) : null;
        var listing = catalog is null ? null : Programs.Catalog.TryRead(catalog);
        var isListed = listing is not null && reading.Digests.Any(digest => listing.Lists(digest));
        return this with
        {
            File = bytes,
            Version = reading.Version,
            Catalog = isListed ? catalog : null,
            Signer = reading.Signer?.Name ?? (isListed ? listing!.Signer : null)
        };
    }

    /// <summary>Where the INF says that a file lies on its medium.</summary>
    private IEnumerable<string> FoldersOf(InfFile inf, string name)
    {
        foreach (var section in (string[])["SourceDisksFiles.amd64", "SourceDisksFiles.x86", "SourceDisksFiles"])
        {
            foreach (var line in inf.Section(section).Where(line => line.Is(name)))
            {
                if (line[1].Trim('\\') is { Length: > 0 } below) yield return At(Folder, below);
            }
        }
    }

    private static string At(string folder, string name) => folder.Length > 0 ? $@"{folder}\{name}" : name;
}
