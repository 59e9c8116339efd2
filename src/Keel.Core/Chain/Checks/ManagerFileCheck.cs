using Keel.Core.BootCode;
using Keel.Core.BootCode.Loading;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Ntfs;
using Keel.Core.Windows;

namespace Keel.Core.Chain.Checks;

/// <summary>The boot manager's file on the system volume, and the attributes of the files beside it.</summary>
internal sealed class ManagerFileCheck : ILinkCheck
{
    public static readonly FindingKind Missing = new(
        "manager-missing",
        Link.ManagerFile,
        Severity.Error,
        "The boot manager is missing.",
        StartupScreens.ManagerMissing,
        StartupScreens.NotFound,
        StartupScreens.NoBootDevice);

    public static readonly FindingKind Empty = new(
        "manager-empty",
        Link.ManagerFile,
        Severity.Error,
        "The boot manager is an empty file.",
        StartupScreens.ManagerCorrupt,
        StartupScreens.NoBootDevice);

    public static readonly FindingKind Folder = new(
        "manager-folder",
        Link.ManagerFile,
        Severity.Error,
        "A folder stands where the boot manager should.",
        StartupScreens.ManagerMissing,
        StartupScreens.NoBootDevice);

    public static readonly FindingKind Compressed = new(
        "manager-compressed",
        Link.ManagerFile,
        Severity.Error,
        "The boot manager is compressed or encrypted, and boot code can't read it.",
        StartupScreens.ManagerCompressed);

    public static readonly FindingKind CutShort = new(
        "manager-cut-short",
        Link.ManagerFile,
        Severity.Error,
        "The boot manager is cut short.",
        StartupScreens.ManagerCorrupt,
        StartupScreens.NoBootDevice,
        StartupScreens.EndOfFile);

    public static readonly FindingKind Damaged = new(
        "manager-damaged",
        Link.ManagerFile,
        Severity.Error,
        "The boot manager is not a program.",
        StartupScreens.ManagerCorrupt,
        StartupScreens.NoBootDevice,
        StartupScreens.InvalidImage);

    public static readonly FindingKind WrongMachine = new(
        "manager-wrong-machine",
        Link.ManagerFile,
        Severity.Error,
        "The boot manager is a program for another processor.",
        StartupScreens.NoBootDevice,
        StartupScreens.InvalidImage);

    public static readonly FindingKind NotTrusted = new(
        "manager-not-trusted",
        Link.ManagerFile,
        Severity.Error,
        "Secure Boot is on, and the firmware refuses the boot manager.",
        StartupScreens.SecureBootViolation,
        StartupScreens.NoBootDevice,
        StartupScreens.NotSupported);

    public static readonly FindingKind VolumeUnreadable = new(
        "volume-unreadable",
        Link.ManagerFile,
        Severity.Error,
        "The system volume's file system can't be read.",
        StartupScreens.DiskRead,
        StartupScreens.FileCorrupt);

    public static readonly FindingKind NotLoadable = new(
        "manager-not-loadable",
        Link.ManagerFile,
        Severity.Error,
        "The boot manager is there, and boot code would not load it.",
        StartupScreens.ManagerMissing,
        StartupScreens.ManagerCorrupt,
        StartupScreens.DiskRead);

    public static readonly FindingKind Altered = new(
        "manager-altered",
        Link.ManagerFile,
        Severity.Error,
        "The boot manager is not as the installation's own copy of it.",
        StartupScreens.ManagerCorrupt,
        StartupScreens.BlinkingCursor);

    public static readonly FindingKind Medium = new(
        "medium-alone",
        Link.ManagerFile,
        Severity.Note,
        "It is a medium that firmware starts by its fallback file alone, and no Windows is on it.");

    public static readonly FindingKind CopyDiffers = new(
        "manager-copy-differs",
        Link.ManagerFile,
        Severity.Note,
        "The boot manager and the installation's copy of it differ, and the one that stands is left as it is.");

    public static readonly FindingKind MirrorDiffers = new(
        "system-mft-mirror-differs",
        Link.ManagerFile,
        Severity.Warning,
        "The first records of $MFT on the system volume and their mirror differ.",
        StartupScreens.NtfsStop,
        StartupScreens.DiskRead);

    public static readonly FindingKind Full = new(
        "system-volume-full",
        Link.ManagerFile,
        Severity.Warning,
        "The system volume is full, so the start can't keep its store and logs.",
        StartupScreens.NoMemory)
    {
        Beyond = "Delete or move files on it that the start does not need; 'keel files list --all' shows those that it does."
    };

    public static readonly FindingKind HiddenLocked = new(
        "files-hidden-locked",
        Link.ManagerFile,
        Severity.Warning,
        "Boot files are hidden or locked by their attributes.",
        StartupScreens.AccessDenied);

    public Link Link => Link.ManagerFile;

    public IReadOnlyList<FindingKind> Kinds =>
    [
        Missing, Empty, Folder, Compressed, CutShort, Damaged, Altered, CopyDiffers, Medium, WrongMachine,
        NotTrusted, VolumeUnreadable, NotLoadable, MirrorDiffers, Full, HiddenLocked
    ];

    public LinkReport Check(Machine machine)
    {
        if (machine is { Firmware: FirmwareKind.Bios, SystemVolume.SectorFault: not null })
            return LinkReport.Unreached("manager-file.boot-sector-first");
        if (machine is { Firmware: FirmwareKind.Bios, SystemVolume: { Kind: FileSystemKind.Ntfs } mirrored }
            && NtfsMirror.Of(mirrored.Blocks) is { } mirror)
        {
            if (mirror.PointersContradict) return LinkReport.Unreached("manager-file.boot-sector-first");
            if (mirror.FirstDifferent is { } number)
                return LinkReport.Wrong(MirrorDiffers, Fact.Record.Is(number), Fact.Volume.Is(mirrored.Ref));
        }

        if (machine is { Firmware: FirmwareKind.Bios, SystemVolume.Unreadable: { } error }) throw error;
        if (machine is { Firmware: FirmwareKind.Bios, SystemVolume.FilesProblem: { } problem })
            return LinkReport.Wrong(VolumeUnreadable, problem.AsRemark());
        if (SystemFiles.WhyNot(machine, out var volume, out var files) is { } why) return LinkReport.Unreached(why);
        if (machine.Medium.Volume is not null) return LinkReport.Wrong(Medium, machine.Medium.Remark("medium-alone"));
        var report = machine.Firmware == FirmwareKind.Uefi ? OfUefi(machine, volume, files) : OfBios(machine, volume, files);
        var more = ((Finding?[])[HiddenOrLocked(machine, volume, files), IsFull(volume, files)]).OfType<Finding>().ToList();
        return more.Count == 0
            ? report
            : new LinkReport(report.Findings.Count > 0 ? report.Detail : more[0].Seen, [.. report.Findings, .. more]);
    }

    private static LinkReport OfUefi(Machine machine, DiskVolume volume, IVolume files)
    {
        var state = ProgramState.Of(volume, files, BootFiles.Uefi.ManagerPath, machine.Processor, whole: true);
        if (KindOf(state.Condition) is { } kind) return LinkReport.Wrong(kind, state.Seen);
        return WhyRefused(machine, files) is { } reason
            ? LinkReport.Wrong(
                NotTrusted,
                Fact.Path.Is(BootFiles.Uefi.ManagerPath),
                Fact.Volume.Is(volume.Ref),
                Fact.Reason.Is(reason))
            : LinkReport.Sound(state.Seen);
    }

    /// <summary>Why a firmware with Secure Boot would not start the manager; null where it would, or where it is off.</summary>
    private static Remark? WhyRefused(Machine machine, IVolume files) =>
        machine.SecureBoot.IsOn == true
            ? ProgramTrust.WhyRefused(files.OpenFile(BootFiles.Uefi.ManagerPath), machine.SecureBoot)
            : null;

    private static FindingKind? KindOf(ProgramCondition condition) => condition switch
    {
        ProgramCondition.Missing => Missing,
        ProgramCondition.Folder => Folder,
        ProgramCondition.Empty => Empty,
        ProgramCondition.CutShort => CutShort,
        ProgramCondition.OtherProcessor => WrongMachine,
        ProgramCondition.Sound or ProgramCondition.NotCheckable => null,
        _ => Damaged
    };

    /// <summary>
    /// The BIOS boot manager begins with 16-bit code, so there are no headers to judge it by; the installation's copy tells.
    /// </summary>
    private static LinkReport OfBios(Machine machine, DiskVolume volume, IVolume files)
    {
        var path = BootFiles.Bios.ManagerPath;
        KnownFact[] where = [Fact.Path.Is(path), Fact.Volume.Is(volume.Ref)];
        return files.Find(path) switch
        {
            null => LinkReport.Wrong(Missing, Remark.Of("file.missing", where)),
            { IsFolder: true } => LinkReport.Wrong(Folder, Remark.Of("file.folder", where)),
            { SizeBytes: 0 } => LinkReport.Wrong(Empty, Remark.Of("file.empty", where)),
            { Marks: var marks } when (marks & (FileMarks.Compressed | FileMarks.Encrypted)) != FileMarks.None
                => LinkReport.Wrong(
                    Compressed,
                    [.. where, Fact.IsCompressed.Is((marks & FileMarks.Compressed) != FileMarks.None)]),
            var file when BeginningOf(machine, files, path, file.SizeBytes) is { } whole => LinkReport.Wrong(
                CutShort,
                Remark.Of(
                    "file.beginning",
                    [
                        .. where,
                        Fact.SizeBytes.Is(file.SizeBytes),
                        Fact.OtherPath.Is(whole.Target),
                        Fact.NeededBytes.Is(whole.SizeBytes)
                    ])),
            var file when BiosManagerContent.Judge(machine, files, path, file.SizeBytes) is { } judged
                => OfContent(judged.Kind, judged.Seen.With([.. where]), volume),
            _ when WhyNotLoaded(volume) is { } why => LinkReport.Wrong(NotLoadable, [.. where, Fact.Said.Is(why)]),
            var file => LinkReport.Sound("manager-file.sound", [.. where, Fact.SizeBytes.Is(file.SizeBytes)])
        };
    }

    /// <summary>What differs from its copy may be right, and is looked at further.</summary>
    private static LinkReport OfContent(FindingKind kind, Remark seen, DiskVolume volume) =>
        kind.Severity == Severity.Note && WhyNotLoaded(volume) is { } why
            ? LinkReport.Wrong(NotLoadable, seen.With(Fact.Said.Is(why)))
            : LinkReport.Wrong(kind, seen);

    /// <summary>
    /// Where keel's boot code would stop, looking for the boot manager in its own way; null where it would not, or where other
    /// code stands there.
    /// </summary>
    private static string? WhyNotLoaded(DiskVolume volume)
    {
        if (volume.Blocks.SectorBytes != BootCodeLoading.SectorBytes
            || BootSectorCopy.Recognize(volume.Blocks, volume.Kind)?.Owner is not (CodeOwner.Keel or CodeOwner.Windows))
        {
            return null;
        }

        return BootCodeLoading.Try(volume.Blocks, volume.Kind, LoaderKind.BootManager) is { Outcome: not LoadOutcome.Loaded } stop
            ? stop.Why
            : null;
    }

    /// <summary>The copy of which a file is only the beginning; null where it is whole, or another one.</summary>
    private static BootFileCopy? BeginningOf(Machine machine, IVolume files, string path, long sizeBytes)
    {
        foreach (var (copy, whole) in BiosManagerContent.CopiesOf(machine, path, size => size > sizeBytes))
        {
            if (whole.AsSpan().StartsWith(files.ReadFile(path))) return copy;
        }

        return null;
    }

    /// <summary>
    /// Asked of small volumes only: those that hold nothing but boot files are, and the room of a large one takes long to count.
    /// </summary>
    private static Finding? IsFull(DiskVolume volume, IVolume files)
    {
        const long smallBytes = 16L * 1024 * 1024 * 1024, neededBytes = 64 * 1024;
        if (volume.Blocks.LengthBytes > smallBytes || files.FreeBytes >= neededBytes) return null;
        return Full.At(Fact.Volume.Is(volume.Ref), Fact.FreeBytes.Is(files.FreeBytes));
    }

    private static Finding? HiddenOrLocked(Machine machine, DiskVolume volume, IVolume files)
    {
        var wrong = new List<Remark>();
        foreach (var (path, hindering) in MarksThatHinder(machine))
        {
            var marks = (files.Find(path)?.Marks ?? FileMarks.None) & hindering;
            if (marks != FileMarks.None)
                wrong.Add(Remark.Of("file.attributes", Fact.Path.Is(path), Fact.Attributes.Is(FileMarksText.Words(marks))));
        }

        return wrong.Count == 0 ? null : HiddenLocked.At(Fact.Volume.Is(volume.Ref), Fact.Files.Is(wrong));
    }

    /// <summary>
    /// Boot files, each with the attributes that it should not have: a store has to be written, and nothing is hidden on an EFI
    /// system partition.
    /// </summary>
    internal static IEnumerable<(string Path, FileMarks Marks)> MarksThatHinder(Machine machine)
    {
        yield return (machine.BootFiles.StorePath, FileMarks.ReadOnly);
        if (machine.Firmware == FirmwareKind.Bios) yield break;
        yield return (BootFiles.Uefi.ManagerPath, FileMarks.ReadOnly | FileMarks.Hidden);
        yield return (FallbackFile.PathFor(machine.Processor), FileMarks.ReadOnly | FileMarks.Hidden);
    }
}
