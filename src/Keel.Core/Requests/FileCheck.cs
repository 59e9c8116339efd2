using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Mending.Remedies;
using Keel.Core.Programs;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Requests;

/// <summary>
/// Holds files of an installation against what their maker signed: by the signature that a file carries, else by the catalogs.
/// A copy is offered only where it is proven in the same way.
/// </summary>
public sealed class FileCheck
{
    /// <summary>For how many files copies are looked for: where more are wrong, the disk is.</summary>
    private const int CopiesLimit = 200;

    private readonly Machine machine;
    private readonly FileCheckTerms terms;
    private readonly WindowsInstallation installation;
    private readonly IVolume files;
    private readonly CatalogScan scan;
    private readonly Dictionary<string, (FileSigner Signer, string Catalog)> listed = new(StringComparer.Ordinal);

    private FileCheck(Machine machine, FileCheckTerms terms)
    {
        this.machine = machine;
        this.terms = terms;
        installation = Started(machine);
        files = Locks.FilesOf(installation.Volume);
        scan = new CatalogScan(files, installation.Folder);
    }

    /// <summary>Checks the files of the installation that is started.</summary>
    /// <exception cref="UnreadableException">There is none that can be read.</exception>
    public static FileCheckResult Of(Machine machine, FileCheckTerms terms)
    {
        machine.RequireLibraries();
        return new FileCheck(machine, terms).Run();
    }

    /// <summary>A plan that puts proven copies in the place of files that are not as they were signed.</summary>
    /// <exception cref="RefusedException">There is nothing to mend, or no copy to mend it from.</exception>
    public static Plan Mend(Machine machine, FileCheckTerms terms)
    {
        var result = Of(machine, terms);
        if (result.Wrong.Count == 0)
        {
            throw new RefusedException(
                "Nothing was written.",
                $"None of the {result.Files.Count} files that were checked is known to be another than was signed.",
                "A wider check: --scope system, or --scope all.");
        }

        var mendable = result.Wrong.Where(file => IsTaken(file, terms)).ToList();
        if (mendable.Count == 0)
        {
            throw new RefusedException(
                "Nothing was written.",
                $"No copy that is as signed was found of {string.Join(", ", result.Wrong.Take(3).Select(file => file.Path))}.",
                result.Wrong.Any(file => file.Copy is not null)
                    ? "There are copies of another revision of the same build: --other-revision takes them."
                    : "Name a medium of the same build and revision, or another Windows: --from FOLDER or --from ISO.");
        }

        var volume = result.Installation.Volume.Ref;
        return Plan.ForRequests(machine, [.. mendable.Select<CheckedFile, Func<string, Step?>>(file =>
            id => Replace(machine.Volumes.First(one => one.Ref == volume), file, id))]);
    }

    private static bool IsTaken(CheckedFile file, FileCheckTerms terms) =>
        file.Copy is { } copy && (copy.IsSameVersion || terms.OtherRevision);

    private static Step Replace(DiskVolume volume, CheckedFile file, string id)
    {
        var copy = file.Copy!;
        var bytes = copy.Read();
        Remark? change = null;
        volume.Edit(writable => change = RestoreProgram.WriteKeepingMarks(writable, file.Path, bytes));
        return new Step(
            Link.Session,
            id,
            Remark.Of("step.file-as-signed", Fact.Path.Is(VolumeExtensions.NameOf(file.Path))),
            Remark.Of("line.file", Fact.Path.Is(file.Path), Fact.Volume.Is(volume.Ref), Fact.Change.Is(change!)),
            Remark.Of(
                "line.signed-copy",
                Fact.Source.Is(copy.Source),
                Fact.Version.Is(copy.Version?.ToString() ?? "unknown"),
                Fact.Signer.Is(copy.Signer.Name)))
        { IsGuess = !copy.IsSameVersion };
    }

    private static WindowsInstallation Started(Machine machine)
    {
        var (windows, why) = StartedWindows.Of(machine);
        return windows?.InstallationIn(machine)
            ?? (machine.Installations is [var only] ? only : null)
            ?? throw new UnreadableException(
                "There is no Windows whose files could be checked.",
                $"No installation was reached.{Locks.Told(machine)}",
                Locks.TodoOr(machine, "Run 'keel diagnose' on the disk first."))
            { Reason = machine.LockedVolumes.Count > 0 ? null : why };
    }

    private FileCheckResult Run()
    {
        var paths = Paths();
        var readings = new List<FileReading>();
        var differences = 0;
        foreach (var (path, file) in paths)
        {
            terms.Progress("reading", readings.Count, paths.Count);
            var reading = FileReading.Of(files, path, file);
            if (reading.IsDifference) differences++;
            else readings.Add(reading);
        }

        Prove(readings);
        var judged = readings.ConvertAll(Judge);
        var open = judged.Where(IsSuspicious).Take(CopiesLimit).ToList();
        var copies = CopiesOf(open);
        var told = judged.ConvertAll(file => WithCopy(file, copies.GetValueOrDefault(file.Path, [])));
        return new FileCheckResult(
            installation,
            terms.Scope,
            [.. told.OrderByDescending(file => Weight(file.Verdict)).ThenBy(file => file.Path, StringComparer.OrdinalIgnoreCase)],
            scan.Catalogs)
        { Differences = differences };
    }

    private static int Weight(FileVerdict verdict) => verdict switch
    {
        FileVerdict.Altered => 3,
        FileVerdict.Unreadable => 2,
        FileVerdict.Unknown => 1,
        _ => 0
    };

    /// <summary>An unknown program may be one whose proven copy is another: only then it is altered.</summary>
    private static bool IsSuspicious(CheckedFile file) => file.Verdict != FileVerdict.Signed;

    private List<(string Path, VolumeFile File)> Paths() =>
    [
        .. FileCheckPaths.Of(machine, installation, files, terms.Scope)
            .DistinctBy(path => path.ToUpperInvariant())
            .Select(path => (path, File: files.Find(path)))
            .Where(one => one.File is { IsFolder: false })
            .Select(one => (one.path, one.File!))
    ];

    /// <summary>Asks the catalogs for what carries no signature of its own that fits.</summary>
    private void Prove(IEnumerable<FileReading> readings)
    {
        var wanted = readings
            .Where(reading => reading.Signer is null && reading.Digests.Count > 0 && ProofOf(reading) is null)
            .Select(reading => reading.Digests)
            .ToList();
        if (wanted.Count == 0) return;
        foreach (var (digest, by) in scan.Find(wanted, count => terms.Progress("reading catalogs", count, count)))
            listed.TryAdd(digest, (by.Signer, VolumeExtensions.NameOf(by.Path)));
    }

    private (FileSigner Signer, string? Catalog)? ProofOf(FileReading reading)
    {
        if (reading.Signer is { } own) return (own, null);
        foreach (var digest in reading.Digests)
        {
            if (listed.TryGetValue(Convert.ToHexString(digest), out var by)) return (by.Signer, by.Catalog);
        }

        return null;
    }

    private CheckedFile Judge(FileReading reading)
    {
        var proof = ProofOf(reading);
        var verdict = !reading.IsRead && !reading.IsKeptElsewhere ? FileVerdict.Unreadable
            : proof is not null ? FileVerdict.Signed
            : reading.IsKeptElsewhere ? FileVerdict.Unknown
            : reading.Wrong is not null ? FileVerdict.Altered
            : FileVerdict.Unknown;
        return new CheckedFile(reading.Path, verdict, reading.File.SizeBytes, reading.Version, files.WrittenAt(reading.Path))
        {
            Signer = proof?.Signer,
            Catalog = proof?.Catalog,
            Why = verdict is FileVerdict.Altered or FileVerdict.Unreadable ? reading.Wrong : null
        };
    }

    private CheckedFile WithCopy(CheckedFile file, IReadOnlyList<SignedCopy> copies)
    {
        var best = copies.FirstOrDefault(copy => copy.IsSameVersion) ?? copies.FirstOrDefault();
        if (best is null) return file;
        if (file.Verdict != FileVerdict.Unknown) return file with { Copy = best };
        return file.Version is not null && best is { IsSameVersion: true, Version: not null }
            ? file with { Verdict = FileVerdict.Altered, Copy = best, Why = Remark.Of("proof.other-than-copy") }
            : file;
    }

    /// <summary>Of each file, the copies that are proven, the nearest first.</summary>
    private Dictionary<string, IReadOnlyList<SignedCopy>> CopiesOf(IReadOnlyList<CheckedFile> wrong)
    {
        var candidates = new FileCopies(machine, installation, files, terms.Sources);
        var found = wrong.ToDictionary(file => file.Path, file => candidates.Of(file).ToList(), StringComparer.Ordinal);
        Prove(found.Values.SelectMany(list => list).Select(one => one.Reading));
        return found.ToDictionary(
            pair => pair.Key,
            pair => (IReadOnlyList<SignedCopy>)[.. pair.Value
                .Select(one => ToCopy(wrong.First(file => file.Path == pair.Key), one))
                .OfType<SignedCopy>()],
            StringComparer.Ordinal);
    }

    private SignedCopy? ToCopy(CheckedFile file, FileCopy candidate)
    {
        if (candidate.Reading.Wrong is not null || ProofOf(candidate.Reading) is not { } proof) return null;
        var version = candidate.Reading.Version;
        if (file.Version is not null && version is not null && !IsOfBuild(version, file.Version)) return null;
        var differing = candidate.DifferingFrom(files, file.Path);
        if (differing == 0) return null;                    // a second name of the very same file
        var isSame = file.Version is null || version is null ? candidate.IsOfInstallation : version == file.Version;
        return new SignedCopy(candidate.Source, version, proof.Signer, differing, isSame) { Read = candidate.Read };
    }

    private static bool IsOfBuild(Version version, Version wanted) =>
        (version.Major, version.Minor) == (wanted.Major, wanted.Minor)
            && WindowsBuilds.AreOfSameFiles(version.Build, wanted.Build);
}
