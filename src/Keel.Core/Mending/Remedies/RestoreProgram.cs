using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Chain.Checks.Session;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Volumes;
using Keel.Core.Windows;
using Processor = System.Reflection.PortableExecutable.Machine;

namespace Keel.Core.Mending.Remedies;

/// <summary>
/// Replaces a damaged start program by a spare copy that the installation keeps, or by that of a snapshot: of exactly the version
/// that stood there, else of the newest that is in force. What is only staged for an update comes last, and is a guess.
/// </summary>
internal sealed class RestoreProgram : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
    [
        LoaderFileCheck.Missing,
        LoaderFileCheck.Folder,
        LoaderFileCheck.NotProgram,
        LoaderFileCheck.CutShort,
        LoaderFileCheck.ZeroFilled,
        LoaderFileCheck.WrongMachine,
        LoaderFileCheck.Altered,
        LoaderFileCheck.Unreadable,
        KernelFilesCheck.Missing, KernelFilesCheck.Altered, KernelFilesCheck.Damaged, KernelFilesCheck.WrongMachine,
        KernelFilesCheck.Nt5Missing, KernelFilesCheck.Nt5Damaged,
        StartDriversCheck.Missing, StartDriversCheck.Altered, StartDriversCheck.Damaged, StartDriversCheck.WrongMachine,
        StartDriversCheck.NewAndBad,
        SessionFiles.Missing, SessionFiles.Damaged, SessionFiles.SignInMissing, SessionFiles.SignInDamaged
    ];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (finding.File is not { } place || place.VolumeIn(machine) is not { Files: { } files } volume)
            return Attempt.Refused("file-volume-unreadable");
        var name = VolumeExtensions.NameOf(place.Path);
        var (windows, _) = StartedWindows.Of(machine);
        var installations = machine.Installations.Where(found => found.Volume == volume).ToList();
        var folder = windows?.Folder ?? installations.FirstOrDefault()?.Folder;
        var installation =
            installations.Find(found => string.Equals(found.Folder, folder, StringComparison.OrdinalIgnoreCase));
        var revision = installation?.Revision;
        var copies = folder is null ? [] : SpareCopies.Find(volume, files, folder, name, machine.Processor);
        var standing = VersionThere(files, place.Path);
        if (Best(copies.Where(candidate => !candidate.IsStaged(revision)), standing) is { } copy)
            return Replace(finding, volume, place.Path, files.ReadFile(copy.Path), "step.restore-program", From(copy, standing));

        var older = OlderStates.Youngest(
            volume,
            snapshot => Usable(volume, snapshot, place.Path, machine.Processor, standing),
            out var problem);
        if (older is { } state)
        {
            var source = Describe(state.Found, state.Made, standing);
            return Replace(finding, volume, place.Path, state.Found, "step.program-from-snapshot", source);
        }

        var outside = Outside(machine, installation, place.Path, standing, terms);
        if (outside.Find(copy => copy.IsOfSameRevision(standing, installation!)) is { } same)
            return FromOutside(finding, volume, place.Path, same, isGuess: false);
        if (terms.OtherRevision && outside is [var first, ..])
            return FromOutside(finding, volume, place.Path, first, isGuess: true);

        if (Best(copies, standing) is { } staged)
        {
            var lines = new[] { From(staged, standing), Remark.Of("line.copy-staged", Fact.NumberBefore.Is((uint)revision!)) };
            var bytes = files.ReadFile(staged.Path);
            return Replace(finding, volume, place.Path, bytes, "step.restore-program", lines, isGuess: true);
        }

        if (SwitchOffNewDriver.TryFor(machine, finding) is { } switchedOff) return switchedOff;
        if (outside is [var other, ..]) return OfOtherRevision(place.Path, other, installation!);
        return problem is null ? WithoutCopy(machine, volume, place.Path, copies, standing) : HiveReturn.Unread(problem);
    }

    /// <summary>
    /// Copies from elsewhere that are proven to be as they were made, sound, and of the same build; each revision once.
    /// </summary>
    private static List<OutsideCopy> Outside(
        Machine machine,
        WindowsInstallation? installation,
        string path,
        Version? standing,
        RepairTerms terms)
    {
        if (installation is null) return [];
        var proven = new List<OutsideCopy>();
        foreach (var copy in new OutsideCopies(machine, installation, terms.Sources).Of(path))
        {
            if (!copy.IsOfBuild(installation) || !IsFor(copy.Bytes, machine.Processor)) continue;
            if (SignerOf(machine, copy.Bytes) is not { } signer) continue;
            proven.Add(copy with { Signer = signer });
            if (copy.IsOfSameRevision(standing, installation)) break;
        }

        return proven;
    }

    /// <summary>A checksum that fits proves nothing here: whoever alters a program puts it right.</summary>
    private static string? SignerOf(Machine machine, byte[] bytes) => ProgramContent.Read(new MemoryBlocks(bytes)) switch
    {
        null or { IsAltered: true } => null,
        { Signature: { } own } => own.By.Name,
        _ => machine.Proven.SignersOf(bytes)[0]
    };

    private static bool IsFor(byte[] bytes, Processor? processor) =>
        ProgramFile.TryRead(new MemoryBlocks(bytes)) is { } program
            && program.NeededBytes <= bytes.Length
            && (processor is null || program.Machine == processor);

    private static Attempt FromOutside(
        Finding finding,
        DiskVolume volume,
        string path,
        OutsideCopy copy,
        bool isGuess) => Replace(
        finding,
        volume,
        path,
        copy.Bytes,
        "step.program-from-outside",
        [
            Remark.Of(
                "line.outside-copy",
                Fact.Source.Is(copy.Source),
                Fact.Version.Is($"{copy.Version}"),
                Fact.Signer.Is(copy.Signer!)),
            .. isGuess ? [Remark.Of("line.other-revision")] : Array.Empty<Remark>()
        ],
        isGuess);

    private static Attempt OfOtherRevision(string path, OutsideCopy copy, WindowsInstallation installation) => Attempt.Refused(
        "copy-of-other-revision",
        [
            Fact.Names.Is([VolumeExtensions.NameOf(path)]),
            Fact.Source.Is(copy.Source),
            Fact.Version.Is($"{copy.Version}"),
            Fact.NumberBefore.Is((uint)(installation.Revision ?? 0))
        ]);

    /// <summary>The copy of exactly that version; else the newest, where it is not older.</summary>
    private static SpareCopy? Best(IEnumerable<SpareCopy> copies, Version? standing)
    {
        var fitting = copies
            .Where(candidate => standing is null || candidate.Version is null || candidate.Version >= standing)
            .ToList();
        return fitting.Find(candidate => standing is not null && candidate.Version == standing) ?? fitting.FirstOrDefault();
    }

    private static Remark From(SpareCopy copy, Version? standing) => Remark.Of("line.spare-copy", Describe(copy, standing));

    private static Attempt Replace(
        Finding finding,
        DiskVolume volume,
        string path,
        byte[] bytes,
        string summary,
        Remark source) => Replace(finding, volume, path, bytes, summary, [source], isGuess: false);

    private static Attempt Replace(
        Finding finding,
        DiskVolume volume,
        string path,
        byte[] bytes,
        string summary,
        Remark[] sources,
        bool isGuess)
    {
        Remark? change = null;
        volume.Edit(writable => change = WriteKeepingMarks(writable, path, bytes));
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of(summary, Fact.Path.Is(VolumeExtensions.NameOf(path))),
            [Remark.Of("line.file", Fact.Path.Is(path), Fact.Volume.Is(volume.Ref), Fact.Change.Is(change!)), .. sources])
        { IsGuess = isGuess });
    }

    /// <summary>The program as a snapshot has it; null where it is not sound there, or older than the one that stands.</summary>
    private static byte[]? Usable(DiskVolume volume, IVolume snapshot, string path, Processor? processor, Version? standing)
    {
        var state = ProgramState.Of(volume, snapshot, path, processor, whole: true);
        if (state.Condition != ProgramCondition.Sound) return null;
        var version = ProgramFile.VersionOf(snapshot.OpenFile(path));
        return standing is null || version is null || version >= standing ? snapshot.ReadFile(path) : null;
    }

    private static Remark Describe(byte[] program, DateTimeOffset made, Version? standing)
    {
        var facts = new List<KnownFact> { Fact.Written.Is(made) };
        if (ProgramFile.VersionOf(new MemoryBlocks(program)) is { } version) facts.Add(Fact.Version.Is($"{version}"));
        if (standing is not null) facts.Add(Fact.OtherVersion.Is($"{standing}"));
        return Remark.Of("line.snapshot-copy", [.. facts]);
    }

    internal static Remark WriteKeepingMarks(IVolume files, string path, byte[] bytes)
    {
        var before = files.Find(path);
        var line = BootFileRenewal.WriteOne(files, path, bytes);
        if (before is { IsFolder: false }) files.SetMarks(path, before.Marks & FileMarks.Changeable);
        return line;
    }

    private static Version? VersionThere(IVolume files, string path)
    {
        try
        {
            return files.FileExists(path) ? ProgramFile.VersionOf(files.OpenFile(path)) : null;
        }
        catch (KeelException)
        {
            return null;
        }
    }

    private static IEnumerable<KnownFact> Describe(SpareCopy copy, Version? standing)
    {
        yield return Fact.Path.Is(copy.Path);
        yield return Fact.Version.Is(copy.Version?.ToString() ?? "unknown");
        if (copy.Written is { } written) yield return Fact.Written.Is(written);
        if (standing is not null) yield return Fact.OtherVersion.Is($"{standing}");
    }

    private static Attempt WithoutCopy(
        Machine machine,
        DiskVolume volume,
        string path,
        IReadOnlyList<SpareCopy> copies,
        Version? standing)
    {
        KnownFact[] facts =
        [
            Fact.Path.Is(path),
            Fact.Volume.Is(volume.Ref),
            Fact.Names.Is([VolumeExtensions.NameOf(path)]),
            Fact.Build.Is(machine.Installations.FirstOrDefault(found => found.Volume == volume)?.Build ?? 0)
        ];
        return copies.Count == 0
            ? Attempt.Refused("no-spare-copy", facts)
            : Attempt.Refused(
                "spare-copy-older",
                [.. facts, Fact.Version.Is($"{copies[0].Version}"), Fact.OtherVersion.Is($"{standing}")]);
    }
}
