using Keel.Core.BootCode;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;

namespace Keel.Core.Chain.Checks;

/// <summary>The EFI system partition: there, of the right type, with a FAT file system that leads to its files.</summary>
internal sealed class SystemVolumeCheck : ILinkCheck
{
    public static readonly FindingKind Missing = new(
        "esp-missing",
        Link.SystemVolume,
        Severity.Error,
        "The disk has no EFI system partition.",
        StartupScreens.NoBootDevice)
    {
        Beyond = "Make one of at least 100 MB with a partition program, type EFI system, and run: keel files renew DISK "
            + "--new-file-system"
    };

    public static readonly FindingKind WrongType = new(
        "esp-wrong-type",
        Link.SystemVolume,
        Severity.Error,
        "The partition with the EFI boot files is not marked as EFI system partition.",
        StartupScreens.NoBootDevice);

    public static readonly FindingKind NoFileSystem = new(
        "esp-no-file-system",
        Link.SystemVolume,
        Severity.Error,
        "The EFI system partition has no file system that firmware reads.",
        StartupScreens.NoBootDevice);

    public static readonly FindingKind Formatted = new(
        "esp-formatted",
        Link.SystemVolume,
        Severity.Error,
        "The EFI system partition is empty: it was formatted, or its files were deleted.",
        StartupScreens.NoBootDevice,
        StartupScreens.NotFound);

    public static readonly FindingKind Damaged = new(
        "esp-fat-damaged",
        Link.SystemVolume,
        Severity.Error,
        "The file system of the EFI system partition is damaged.",
        StartupScreens.NoBootDevice,
        StartupScreens.FileCorrupt);

    public static readonly FindingKind WrongFields = new(
        "esp-wrong-fields",
        Link.SystemVolume,
        Severity.Error,
        "The boot sector of the EFI system partition describes another file system than the one that stands there.",
        StartupScreens.NoBootDevice,
        StartupScreens.FileCorrupt);

    public static readonly FindingKind CopiesDiffer = new(
        "esp-fat-copies-differ",
        Link.SystemVolume,
        Severity.Warning,
        "The two tables of the EFI system partition's file system differ.");

    public Link Link => Link.SystemVolume;

    public LinkReport Check(Machine machine) => machine.SystemVolumeReport;

    /// <summary>What <see cref="Check"/> gives; the machine keeps it, since the links behind ask for it too.</summary>
    internal static LinkReport Look(Machine machine)
    {
        try
        {
            return machine.SystemVolume?.Unreadable is { } error ? Judgement.NotRead(Link.SystemVolume, error) : LookAt(machine);
        }
        catch (ReadFailedException e)
        {
            return Judgement.NotRead(Link.SystemVolume, e);
        }
    }

    private static LinkReport LookAt(Machine machine)
    {
        if (machine.SystemVolume is not { } volume) return LinkReport.Wrong(Missing, machine.SystemVolumeReason);
        if (!volume.Partition.IsEfiSystem && machine.Medium.Volume is null)
            return LinkReport.Wrong(WrongType, Fact.Volume.Is(volume.Ref), Fact.Type.Is(volume.Partition.TypeName));
        if (volume.SectorFault is { } fault)
            return LinkReport.Wrong(WrongFields, Fact.Volume.Is(volume.Ref), Fact.Names.Is(fault.Fields));
        if (volume.Kind is not (FileSystemKind.Fat12 or FileSystemKind.Fat16 or FileSystemKind.Fat32))
        {
            var facts = new List<KnownFact> { Fact.Volume.Is(volume.Ref) };
            if (volume.Kind != FileSystemKind.Unknown) facts.Add(Fact.FileSystem.Is(FileSystemProbe.Name(volume.Kind)));
            if (BootSectorRescue.FindBackup(volume) is { Kind: FileSystemKind.Fat32 } backup)
                facts.Add(Fact.Backup.Is(FileSystemProbe.Name(backup.Kind)));
            return LinkReport.Wrong(NoFileSystem, facts);
        }

        try
        {
            return Judge(volume, FatHealth.Of(volume.Blocks, volume.ToString()));
        }
        catch (KeelException e) when (e is not ReadFailedException)
        {
            return LinkReport.Wrong(Damaged, e.AsRemark());
        }
    }

    private static LinkReport Judge(DiskVolume volume, FatHealth health)
    {
        if (health.Damage.Count > 0)
        {
            return LinkReport.Wrong(
                Damaged,
                Fact.Volume.Is(volume.Ref),
                Fact.Said.Is(health.Damage[0]),
                Fact.TablesDiffer.Is(health.CopiesDiffer));
        }

        if (volume.Files is not { } files)
        {
            return LinkReport.Wrong(
                Damaged,
                volume.FilesProblem?.AsRemark() ?? Remark.Of("volume.files-unreadable", Fact.Volume.Is(volume.Ref)));
        }

        if (!files.FolderExists(@"\EFI"))
            return LinkReport.Wrong(Formatted, Fact.Volume.Is(volume.Ref), Fact.FileSystem.Is(FileSystemProbe.Name(volume.Kind)));
        return health.CopiesDiffer
            ? LinkReport.Wrong(CopiesDiffer, Fact.Volume.Is(volume.Ref))
            : LinkReport.Sound(
                "system-volume.sound",
                Fact.Volume.Is(volume.Ref),
                Fact.FileSystem.Is(FileSystemProbe.Name(volume.Kind)));
    }
}
