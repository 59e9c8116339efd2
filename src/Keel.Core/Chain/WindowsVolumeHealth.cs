using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.Chain;

/// <summary>What about the Windows volume as a whole may stop a start, or keep keel from looking.</summary>
internal static class WindowsVolumeHealth
{
    public static readonly FindingKind MirrorDiffers = new(
        "mft-mirror-differs",
        Link.WindowsVolume,
        Severity.Warning,
        "The first records of $MFT on the Windows volume and their mirror differ.",
        StartupScreens.NtfsStop,
        StartupScreens.UnmountableVolume);

    public static readonly FindingKind WrongMft = new(
        "volume-wrong-mft",
        Link.WindowsVolume,
        Severity.Error,
        "The boot sector of the Windows volume says that $MFT or its mirror begins elsewhere than they do.",
        StartupScreens.UnmountableVolume,
        StartupScreens.NtfsStop);

    public static readonly FindingKind WrongFields = new(
        "volume-wrong-fields",
        Link.WindowsVolume,
        Severity.Error,
        "The boot sector of the Windows volume describes another file system than the one that stands there.",
        StartupScreens.UnmountableVolume,
        StartupScreens.NtfsStop,
        StartupScreens.InaccessibleBootDevice);

    public static readonly FindingKind Unreadable = new(
        "windows-volume-unreadable",
        Link.WindowsVolume,
        Severity.Error,
        "The file system of the Windows volume can't be read.",
        StartupScreens.UnmountableVolume,
        StartupScreens.NtfsStop)
    {
        Beyond = "Copy off what can be read, from an image of the disk; then have the file system checked by Windows."
    };

    public static readonly FindingKind Unclean = new(
        "volume-unclean",
        Link.WindowsVolume,
        Severity.Warning,
        "Windows marked its volume as not properly closed.",
        StartupScreens.UnmountableVolume,
        StartupScreens.NtfsStop)
    {
        Beyond =
            "It stays marked, so that Windows checks it by itself at the next start. If the start does not come that far, have "
                + "its file system checked from Windows' own recovery."
    };

    public static readonly FindingKind Hibernated = new(
        "volume-hibernated",
        Link.WindowsVolume,
        Severity.Warning,
        "Windows is hibernated on its volume.",
        StartupScreens.AutomaticRepair)
    {
        Beyond =
            "Start it, and shut it down fully. If it neither resumes nor starts: 'keel mend DISK --give-up-session' gives the "
                + "open session up, and a fresh start is taken; until then keel writes on none of its volumes."
    };

    public static readonly FindingKind SectorWiped = new(
        "windows-volume-sector-wiped",
        Link.WindowsVolume,
        Severity.Error,
        "The boot sector of the Windows volume is gone.",
        StartupScreens.NoSuchDevice,
        StartupScreens.UnmountableVolume,
        StartupScreens.InaccessibleBootDevice);

    public static readonly FindingKind NoFileSystem = new(
        "windows-volume-no-file-system",
        Link.WindowsVolume,
        Severity.Error,
        "The Windows volume has no file system that is known here.",
        StartupScreens.NoSuchDevice,
        StartupScreens.UnmountableVolume,
        StartupScreens.InaccessibleBootDevice)
    {
        Beyond = "Make an image of the disk before anything else. Neither a boot sector nor a copy of one is left there, so what "
            + "was on it can only be searched for by signatures."
    };

    public static IReadOnlyList<FindingKind> Kinds =>
    [
        SectorWiped, NoFileSystem, MirrorDiffers, WrongMft, WrongFields, Unreadable, Unclean, Hibernated
    ];

    internal const string HibernationFile = @"\hiberfil.sys";

    /// <summary>What was found; nothing where the volume is plainly in order.</summary>
    public static IEnumerable<Finding> Of(Machine machine, DiskVolume volume)
    {
        foreach (var finding in EncryptionHealth.Of(volume).Concat(RecoveryPromptCauses.Of(machine, volume)))
            yield return finding;
        if (volume.Kind == FileSystemKind.BitLocker) yield break;

        if (FieldsOf(volume) is { } fields)
        {
            yield return fields;
            yield break;
        }

        if (PointerOf(volume) is { } pointer)
        {
            yield return pointer;
            yield break;
        }

        if (SectorOf(volume) is { } wiped)
        {
            yield return wiped;
            yield break;
        }

        if (MirrorOf(volume) is { } differs)
        {
            yield return differs;
            yield break;                                         // the file system is not opened while they differ
        }

        if (volume.Files is not { } files)
        {
            if (volume.FilesProblem is { } problem) yield return Unreadable.At(problem.AsRemark());
            yield break;
        }

        if (files is NtfsVolume { IsDirty: true }) yield return Unclean.At(Fact.Volume.Is(volume.Ref));
        if (!IsHibernated(files)) yield break;
        var resumes = machine.Store.Store?.Manager?.Number(Element.ResumePending) == 1;
        KnownFact[] where = [Fact.Path.Is(HibernationFile), Fact.Volume.Is(volume.Ref)];
        var file = FilePlace.Of(volume, HibernationFile);
        yield return resumes ? Hibernated.At(Remark.Of("volume-hibernated.resumes", where), file) : Hibernated.At(file, where);
    }

    /// <summary>Where no entry says which Windows is started, its volume may be one of those that can't be opened.</summary>
    public static IReadOnlyList<Finding> WhereNoneIsKnown(Machine machine) =>
        [.. machine.Volumes
            .Where(volume => volume.FilesProblem is not null || volume.Files is null)
            .Select(volume => FieldsOf(volume) ?? PointerOf(volume) ?? MirrorOf(volume) ?? LostSectorOf(machine, volume))
            .OfType<Finding>()];

    /// <summary>A volume without a file system whose boot sector left a copy, or can be worked out.</summary>
    private static Finding? SectorOf(DiskVolume volume)
    {
        if (volume.Kind != FileSystemKind.Unknown || volume.Unreadable is not null) return null;
        var place = Fact.Volume.Is(volume.Ref);
        if (BootSectorRescue.FindBackup(volume) is { } backup)
            return SectorWiped.At(place, Fact.FileSystem.Is(FileSystemProbe.Name(backup.Kind)));
        return BootSectorRescue.RebuildNtfs(volume, serial: 0) is not null
            ? SectorWiped.At(Remark.Of("windows-volume-sector-wiped.rebuilt", place))
            : NoFileSystem.At(place);
    }

    /// <summary>Where nothing says which volume it is, only one that plainly was a volume of Windows counts.</summary>
    private static Finding? LostSectorOf(Machine machine, DiskVolume volume) =>
        volume != machine.SystemVolume && SectorOf(volume) is { } finding && finding.Kind == SectorWiped ? finding : null;

    /// <summary>
    /// The system volume's pointers belong to the link of its boot sector, where the machine starts through that.
    /// </summary>
    private static Finding? PointerOf(DiskVolume volume) =>
        Checks.BootSectorCheck.WrongPointer(volume) is { } seen ? WrongMft.At(seen, FilePlace.Of(volume, "$Boot")) : null;

    private static Finding? FieldsOf(DiskVolume volume) => volume.SectorFault is { } fault
        ? WrongFields.At(FilePlace.Of(volume, "$Boot"), Fact.Volume.Is(volume.Ref), Fact.Names.Is(fault.Fields))
        : null;

    private static Finding? MirrorOf(DiskVolume volume)
    {
        if (volume.Kind != FileSystemKind.Ntfs) return null;
        if (NtfsMirror.Of(volume.Blocks) is not { PointersContradict: false, FirstDifferent: { } number } mirror) return null;
        return MirrorDiffers.At(
            FilePlace.Of(volume, "$MFTMirr"),
            Fact.Record.Is(number),
            Fact.Volume.Is(volume.Ref),
            Fact.IsWhole.Is(mirror.MftIsGood),
            Fact.MirrorIsWhole.Is(mirror.MirrorIsGood));
    }

    /// <summary>Whether a hibernated Windows keeps its session there.</summary>
    internal static bool IsHibernated(IVolume files)
    {
        const int markBytes = 4;
        try
        {
            if (files.Find(HibernationFile) is not { SizeBytes: > markBytes }) return false;
            var mark = System.Text.Encoding.ASCII.GetString(files.OpenFile(HibernationFile).ReadBytes(0, markBytes));
            return mark.Equals("hibr", StringComparison.OrdinalIgnoreCase);
        }
        catch (KeelException)
        {
            return false;
        }
    }
}
