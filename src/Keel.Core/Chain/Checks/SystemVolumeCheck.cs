using Keel.Core.Machines;

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

    public IReadOnlyList<FindingKind> Kinds =>
    [
        Missing, WrongType, NoFileSystem, Formatted, Damaged, CopiesDiffer, WrongFields
    ];

    public LinkReport Check(Machine machine)
    {
        var state = machine.SystemVolumeState;
        return state.Error is { } error ? Judgement.NotRead(Link.SystemVolume, error)
            : KindOf(state.Condition) is not { } kind ? LinkReport.Sound("system-volume.sound", state.Facts)
            : state.Seen is { } seen ? LinkReport.Wrong(kind, seen)
            : LinkReport.Wrong(kind, state.Facts);
    }

    private static FindingKind? KindOf(SystemVolumeCondition condition) => condition switch
    {
        SystemVolumeCondition.Missing => Missing,
        SystemVolumeCondition.WrongType => WrongType,
        SystemVolumeCondition.WrongFields => WrongFields,
        SystemVolumeCondition.NoFileSystem => NoFileSystem,
        SystemVolumeCondition.Formatted => Formatted,
        SystemVolumeCondition.Damaged => Damaged,
        SystemVolumeCondition.CopiesDiffer => CopiesDiffer,
        _ => null
    };
}
