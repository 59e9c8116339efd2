using System.Reflection.PortableExecutable;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Machine = Keel.Core.Machines.Machine;

namespace Keel.Core.Chain.Checks;

/// <summary>The file that the started entry names.</summary>
internal sealed class LoaderFileCheck : ILinkCheck
{
    public static readonly FindingKind Missing = new(
        "loader-missing",
        Link.LoaderFile,
        Severity.Error,
        "The Windows loader is missing.",
        StartupScreens.NoSuchFile,
        StartupScreens.NameNotFound);

    public static readonly FindingKind Folder = new(
        "loader-folder",
        Link.LoaderFile,
        Severity.Error,
        "A folder stands where the Windows loader should.",
        StartupScreens.IsDirectory);

    public static readonly FindingKind NotProgram = new(
        "loader-damaged",
        Link.LoaderFile,
        Severity.Error,
        "The Windows loader is not a program.",
        StartupScreens.InvalidImage,
        StartupScreens.FileCorrupt);

    public static readonly FindingKind CutShort = new(
        "loader-cut-short",
        Link.LoaderFile,
        Severity.Error,
        "The Windows loader is cut short.",
        StartupScreens.EndOfFile,
        StartupScreens.InvalidImage);

    public static readonly FindingKind ZeroFilled = new(
        "loader-zero-filled",
        Link.LoaderFile,
        Severity.Error,
        "The Windows loader holds zeros only, as files do that a power cut caught.",
        StartupScreens.InvalidImage,
        StartupScreens.FileCorrupt);

    public static readonly FindingKind WrongMachine = new(
        "loader-wrong-machine",
        Link.LoaderFile,
        Severity.Error,
        "The Windows loader is a program for another processor.",
        StartupScreens.WrongProcessor32,
        StartupScreens.WrongProcessor64,
        StartupScreens.InvalidImage);

    public static readonly FindingKind Altered = new(
        "loader-altered",
        Link.LoaderFile,
        Severity.Error,
        "The Windows loader has been altered.",
        StartupScreens.ChecksumMismatch,
        StartupScreens.InvalidHash);

    public static readonly FindingKind Unreadable = new(
        "start-file-unreadable",
        Link.LoaderFile,
        Severity.Error,
        "A block of a start file can't be read from the disk.",
        StartupScreens.UnexpectedIo,
        StartupScreens.FileCorrupt,
        StartupScreens.AutomaticRepair);

    private static readonly ProgramKinds FileKinds = new(Missing, NotProgram, CutShort, Altered, WrongMachine, ZeroFilled);

    public Link Link => Link.LoaderFile;

    public IReadOnlyList<FindingKind> Kinds =>
    [
        Missing, Folder, NotProgram, CutShort, ZeroFilled, WrongMachine, Altered, Unreadable, .. FileVersions.OfLoader
    ];

    public LinkReport Check(Machine machine)
    {
        if (machine.Store is not { Condition: StoreCondition.Loaded, Store: { } store }
            || store.Started is not { } entry)
        {
            return LinkReport.Unreached("loader-file.no-entry");
        }

        if (machine.VolumeOf(entry.Device(Element.ProgramVolume)) is not { } volume)
            return LinkReport.Unreached("entry.volume-not-here");
        if (volume.Kind == FileSystemKind.BitLocker) return LinkReport.Unreached("volume.encrypted", Fact.Volume.Is(volume.Ref));
        if (volume.Files is not { } files) return LinkReport.Unreached("volume.files-unreadable", Fact.Volume.Is(volume.Ref));

        if (entry.Text(Element.ProgramFile) is not { Length: > 0 } path) return LinkReport.Unreached("entry.no-file");
        var state = machine.Programs.Look(volume, files, path);
        var finding = state.Condition == ProgramCondition.Folder
            ? Folder.At(state.Seen)
            : FileKinds.FindingOf(state, FilePlace.Of(volume, path)) ?? OtherProgram(state, volume, path);
        var findings = Unread(machine).ToList();
        if (finding is not null) findings.Insert(0, finding);
        else if (StartedWindows.Of(machine).Windows is { } windows) findings.AddRange(FileVersions.Manager(machine, windows));
        return LinkReport.Of(
            findings,
            state.Content is { } content ? state.Seen.With(Fact.Content.Is(content.Says)) : state.Seen);
    }

    /// <summary>A program that runs under Windows, or its kernel, is no loader, however whole it is.</summary>
    private static Finding? OtherProgram(ProgramState state, DiskVolume volume, string path) =>
        state.Program is { Subsystem: Subsystem.Native or Subsystem.WindowsGui or Subsystem.WindowsCui }
            ? NotProgram.At(
                Remark.Of("program.no-loader", Fact.Path.Is(path), Fact.Volume.Is(volume.Ref)),
                FilePlace.Of(volume, path))
            : null;

    private static IEnumerable<Finding> Unread(Machine machine) => (machine.StartFileScan?.Remaining(machine) ?? [])
        .GroupBy(failure => failure.File)
        .Select(group => Unreadable.At(
            group.Key,
            Fact.Path.Is(group.Key.Path),
            Fact.Volume.Is(new VolumeRef(group.Key.DiskPath, group.Key.Volume)),
            Fact.AtBytes.Is([.. group.Select(failure => failure.OffsetBytes)])));
}
