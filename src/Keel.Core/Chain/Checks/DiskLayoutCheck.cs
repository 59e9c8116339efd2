using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Volumes;

namespace Keel.Core.Chain.Checks;

/// <summary>The partition table: present, inside the disk, free of overlaps; for GPT both copies and the protection.</summary>
internal sealed class DiskLayoutCheck : ILinkCheck
{
    private const string Image =
        "Make an image of the disk before anything else, and work on the image: a copy shows what can still be read there.";

    public static readonly FindingKind NoTable = new(
        "table-missing",
        Link.DiskLayout,
        Severity.Error,
        "The disk has no partition table.",
        StartupScreens.NoBootDevice,
        StartupScreens.MissingSystem)
    { HidesFrom = Link.MbrCode };

    public static readonly FindingKind Overlap = new(
        "table-overlap",
        Link.DiskLayout,
        Severity.Error,
        "Two partitions overlap.",
        StartupScreens.MissingSystem,
        StartupScreens.InvalidTable,
        StartupScreens.DiskRead);

    public static readonly FindingKind PastEnd = new(
        "table-past-end",
        Link.DiskLayout,
        Severity.Error,
        "A partition ends beyond the disk.",
        StartupScreens.ErrorLoading,
        StartupScreens.InvalidTable);

    public static readonly FindingKind BadMark = new(
        "table-bad-mark",
        Link.DiskLayout,
        Severity.Error,
        "A slot of the partition table has an impossible active mark.",
        StartupScreens.InvalidTable);

    public static readonly FindingKind LogicalDamaged = new(
        "table-logical-damaged",
        Link.DiskLayout,
        Severity.Warning,
        "The chain of logical partitions is damaged.",
        StartupScreens.NoSuchDevice);

    public static readonly FindingKind PrimaryDamaged = new(
        "gpt-primary-damaged",
        Link.DiskLayout,
        Severity.Warning,
        "The GPT at the start of the disk is damaged.",
        StartupScreens.NoBootDevice);

    public static readonly FindingKind BackupDamaged = new(
        "gpt-backup-damaged",
        Link.DiskLayout,
        Severity.Warning,
        "The backup GPT at the end of the disk is damaged.");

    public static readonly FindingKind BackupMisplaced = new(
        "gpt-backup-misplaced",
        Link.DiskLayout,
        Severity.Warning,
        "The backup GPT is not at the end of the disk.");

    public static readonly FindingKind CopiesDiffer = new(
        "gpt-copies-differ",
        Link.DiskLayout,
        Severity.Warning,
        "The two copies of the GPT list different partitions.");

    public static readonly FindingKind ProtectiveMissing = new(
        "gpt-protective-missing",
        Link.DiskLayout,
        Severity.Error,
        "The GPT has no protective master boot record.",
        StartupScreens.NoBootDevice);

    public static readonly FindingKind Overwritten = new(
        "gpt-overwritten",
        Link.DiskLayout,
        Severity.Error,
        "A table of the old kind was written over the protection of a GPT, and the volumes are where the GPT says.",
        StartupScreens.NoBootDevice,
        StartupScreens.MissingSystem,
        StartupScreens.InvalidTable)
    { HidesFrom = Link.MbrCode };

    public static readonly FindingKind WrongType = new(
        "partition-wrong-type",
        Link.DiskLayout,
        Severity.Error,
        "The partition of Windows has a type that Windows passes by.",
        StartupScreens.InaccessibleBootDevice,
        StartupScreens.NoSuchDevice);

    public static readonly FindingKind ProtectiveType = new(
        "partition-protective-type",
        Link.DiskLayout,
        Severity.Error,
        "A partition of the old table has the type that protects a GPT, and there is no GPT.",
        StartupScreens.NoBootDevice,
        StartupScreens.NoSuchDevice,
        StartupScreens.InaccessibleBootDevice);

    public static readonly FindingKind ReadOnly = new(
        "partition-read-only",
        Link.DiskLayout,
        Severity.Error,
        "The partition of Windows is marked as one that is only read, or is hidden, in the GPT.",
        StartupScreens.InaccessibleBootDevice,
        StartupScreens.UnmountableVolume);

    public static readonly FindingKind TooSmall = new(
        "partition-too-small",
        Link.DiskLayout,
        Severity.Error,
        "A partition is smaller than the file system in it.",
        StartupScreens.UnmountableVolume,
        StartupScreens.NoSuchDevice,
        StartupScreens.DiskRead)
    {
        HidesFrom = Link.WindowsVolume,
        Beyond = "Make an image of the disk, and find out which is right: the partition was shrunk, or the file system is cut "
            + "short. Nothing should be written on it before that."
    };

    public static readonly FindingKind BothDamaged = new(
        "gpt-both-damaged",
        Link.DiskLayout,
        Severity.Error,
        "Both copies of the GPT are damaged.",
        StartupScreens.NoBootDevice)
    { HidesFrom = Link.MbrCode };

    public static readonly FindingKind TableUnreadable = new(
        "table-unreadable",
        Link.DiskLayout,
        Severity.Error,
        "The partition table can't be read from the disk.",
        StartupScreens.NoBootDevice,
        StartupScreens.ErrorLoading)
    { Beyond = Image };

    public static readonly FindingKind LogicalUnreadable = new(
        "table-logical-unreadable",
        Link.DiskLayout,
        Severity.Warning,
        "A part of the chain of logical partitions can't be read from the disk.",
        StartupScreens.NoSuchDevice)
    { Beyond = Image };

    public static readonly FindingKind PrimaryUnreadable = new(
        "gpt-primary-unreadable",
        Link.DiskLayout,
        Severity.Warning,
        "The GPT at the start of the disk can't be read from it.",
        StartupScreens.NoBootDevice)
    { Beyond = Image };

    public static readonly FindingKind BackupUnreadable = new(
        "gpt-backup-unreadable",
        Link.DiskLayout,
        Severity.Warning,
        "The backup GPT at the end of the disk can't be read from it.")
    { Beyond = Image };

    public static readonly FindingKind FirmwareMismatch = new(
        "layout-firmware-mismatch",
        Link.DiskLayout,
        Severity.Error,
        "The machine starts through one kind of firmware, and the disk is laid out for the other.",
        StartupScreens.NoBootDevice,
        StartupScreens.NotFound,
        StartupScreens.NotSupported)
    {
        Beyond =
            "Switch the way of starting in the firmware's settings: UEFI for a GPT disk with an EFI system partition, legacy "
                + "(CSM) for an MBR disk with an active one. Or put the disk back into its own machine."
    };

    public static readonly FindingKind Twin = new(
        "clone-beside-original",
        Link.DiskLayout,
        Severity.Warning,
        "Two disks of the machine have the same signature: one is a copy of the other.",
        StartupScreens.NoSuchDevice,
        StartupScreens.NotFoundElement)
    {
        Beyond =
            "Take one of the two disks out, or start with the copy alone: Windows keeps only one of them, and it may not be "
                + "the one that the firmware starts."
    };

    public static readonly FindingKind Dynamic = new(
        "disk-dynamic",
        Link.DiskLayout,
        Severity.Warning,
        "The disk is a dynamic disk: Windows keeps a layout of its own on it.")
    {
        Beyond = "keel looks at it and writes nothing there. Work on it from Windows, or copy its data off first."
    };

    public static readonly FindingKind Pool = new(
        "disk-in-pool",
        Link.DiskLayout,
        Severity.Warning,
        "The disk belongs to a storage pool.")
    {
        Beyond = "keel looks at it and writes nothing there. Work on it from Windows, with all disks of the pool."
    };

    public Link Link => Link.DiskLayout;

    public IReadOnlyList<FindingKind> Kinds =>
    [
        NoTable, Overlap, PastEnd, BadMark, LogicalDamaged, PrimaryDamaged, BackupDamaged, BackupMisplaced,
        CopiesDiffer, ProtectiveMissing, Overwritten, BothDamaged, WrongType, ProtectiveType, ReadOnly, TooSmall,
        TableUnreadable, LogicalUnreadable, PrimaryUnreadable, BackupUnreadable, FirmwareMismatch, Twin, Dynamic,
        Pool, .. LostSignatures.Kinds, .. UnlistedVolumes.Kinds
    ];

    public LinkReport Check(Machine machine)
    {
        var layout = machine.StartDisk.Layout;
        var count = layout.Partitions.Count(partition => !partition.IsExtended);
        var sound = Remark.Of(
            "disk-layout.sound",
            Fact.Scheme.Is(layout.Scheme == PartitionScheme.Gpt ? "GPT" : "MBR"),
            Fact.PartitionCount.Is(count),
            Fact.Identity.Is($"{layout.Identity}"));
        var findings = layout.Problems.Select(problem => KindOf(problem.Kind)?.At(problem.Seen)).OfType<Finding>().ToList();
        if (IsOverwritten(machine.StartDisk))
        {
            var overwritten = Overwritten.At(Fact.PartitionCount.Is(count));
            return new LinkReport(overwritten.Seen, [overwritten]);
        }

        findings.AddRange(LostSignatures.Of(machine));
        findings.AddRange(UnlistedVolumes.Of(machine));
        findings.AddRange(ProtectiveTypes(machine.StartDisk));
        findings.AddRange(WrongTypes(machine));
        findings.AddRange(ReadOnlyOnes(machine));
        findings.AddRange(TooSmallOnes(machine.StartDisk));
        findings.AddRange(Company(machine));
        if (Mismatch(machine) is { } mismatch) findings.Add(mismatch);
        return new LinkReport(findings.MaxBy(finding => finding.Kind.Severity)?.Seen ?? sound, findings);
    }

    private static IEnumerable<Finding> Company(Machine machine)
    {
        var start = machine.StartDisk;
        var others = machine.NamedDisks.Where(disk => disk != start.Outermost);
        if (!start.Layout.Identity.IsNone
            && others.FirstOrDefault(disk => disk.Layout.Identity == start.Layout.Identity) is { } twin)
        {
            yield return Twin.At(
                Fact.Disk.Is(start.Path),
                Fact.OtherDisk.Is(twin.Path),
                Fact.Identity.Is($"{start.Layout.Identity}"));
        }

        if (start.Layout.Partitions.FirstOrDefault(partition =>
            partition.MbrType == PartitionTypes.Dynamic
                || partition.GptType == PartitionTypes.GptDynamicData
                || partition.GptType == PartitionTypes.GptDynamicMetadata) is { } dynamic)
        {
            yield return Dynamic.At(Fact.Partition.Is(dynamic.Number), Fact.Type.Is(dynamic.TypeName));
        }

        if (start.Layout.Partitions.FirstOrDefault(partition => partition.GptType == PartitionTypes.GptStoragePool) is { } pool)
            yield return Pool.At(Fact.Partition.Is(pool.Number), Fact.Type.Is(pool.TypeName));
    }

    /// <summary>Whether the table that the disk seems to have is one that was written over its own.</summary>
    internal static bool IsOverwritten(MachineDisk disk) =>
        disk.Layout.Has(LayoutProblemKind.GptBehindTable) && GptBehindTable.IsTheRightOne(disk.Overlay, disk.Layout);

    /// <summary>Whether partitions are not known that something may name: that can't be judged before.</summary>
    internal static bool IsTableFirst(Machine machine)
    {
        var disk = machine.StartDisk;
        return disk.Layout.Has(LayoutProblemKind.NoTable)
            || disk.Layout.Has(LayoutProblemKind.GptBothDamaged)
            || IsOverwritten(disk)
            || UnlistedVolumes.Of(machine).Any();
    }

    private static IEnumerable<Finding> TooSmallOnes(MachineDisk disk) => disk.Volumes
        .Select(volume => (Volume: volume, Claim: FileSystemClaim.Of(volume)))
        .Where(pair => pair.Volume.SectorFault is null
            && pair.Claim is { } claim
            && claim.LeastBytes > pair.Volume.Partition.Range.Length
            && pair.Volume.Partition.Range.End <= disk.Overlay.LengthBytes)
        .Select(pair => TooSmall.At(
            Fact.Volume.Is(pair.Volume.Ref),
            Fact.Partition.Is(pair.Volume.Number),
            Fact.SizeBytes.Is(pair.Volume.Partition.Range.Length),
            Fact.NeededBytes.Is(pair.Claim!.WholeBytes)));

    /// <summary>A volume of the old table that is listed as the protection of a GPT.</summary>
    private static IEnumerable<Finding> ProtectiveTypes(MachineDisk disk) => disk.Volumes
        .Where(volume => volume is { Scheme: PartitionScheme.Mbr, Partition.MbrType: PartitionTypes.Protective })
        .Where(volume => volume.Kind != FileSystemKind.Unknown)
        .Select(volume => ProtectiveType.At(
            Fact.Volume.Is(volume.Ref),
            Fact.Type.Is(volume.Partition.TypeName),
            Fact.FileSystem.Is(FileSystemProbe.Name(volume.Kind))));

    /// <summary>
    /// Windows starts its drivers, and then does not find itself: its volume has to have a type that it takes up.
    /// </summary>
    private static IEnumerable<Finding> WrongTypes(Machine machine) => machine.Installations
        .Select(installation => installation.Volume)
        .Where(volume => volume.DiskPath == machine.StartDisk.Path
            && volume.Partition.MbrType != PartitionTypes.Protective
            && !IsTakenUp(volume.Partition))
        .Distinct()
        .Select(volume => WrongType.At(
            Fact.Volume.Is(volume.Ref),
            Fact.Type.Is(volume.Partition.TypeName),
            Fact.FileSystem.Is(FileSystemProbe.Name(volume.Kind))));

    private static IEnumerable<Finding> ReadOnlyOnes(Machine machine) => machine.Installations
        .Select(installation => installation.Volume)
        .Where(volume => volume.DiskPath == machine.StartDisk.Path
            && volume.Partition.GptType == PartitionTypes.GptBasicData
            && (volume.Partition.Attributes & (Partition.ReadOnlyAttribute | Partition.HiddenAttribute)) != 0)
        .Distinct()
        .Select(volume => ReadOnly.At(
            Fact.Volume.Is(volume.Ref),
            Fact.Attributes.Is(NameOf(volume.Partition.Attributes))));

    private static string NameOf(ulong attributes) => string.Join(
        " and ",
        (string[])
        [
            .. (attributes & Partition.ReadOnlyAttribute) != 0 ? (string[])["read-only"] : [],
            .. (attributes & Partition.HiddenAttribute) != 0 ? (string[])["hidden"] : []
        ]);

    private static bool IsTakenUp(Partition partition) => partition.GptType != default
        ? partition.GptType == PartitionTypes.GptBasicData
            || partition.GptType == PartitionTypes.GptDynamicData
            || partition.GptType == PartitionTypes.GptStoragePool
        : partition.MbrType == PartitionTypes.Dynamic || PartitionTypes.IsSeenByWindows(partition.MbrType);

    /// <summary>
    /// A machine whose firmware variables are known starts through UEFI; otherwise only the technician can tell.
    /// </summary>
    private static Finding? Mismatch(Machine machine)
    {
        if (machine.StartDisk.Layout.Scheme == PartitionScheme.None) return null;
        var starts = machine.StartsThrough ?? (machine.Variables is null ? null : (FirmwareKind?)FirmwareKind.Uefi);
        if (starts is null || starts == machine.Firmware) return null;
        var id = starts == FirmwareKind.Uefi ? "layout-firmware-mismatch.uefi" : "layout-firmware-mismatch.bios";
        return FirmwareMismatch.At(Remark.Of(id, Fact.Reason.Is(machine.FirmwareReason)));
    }

    /// <summary>Marks and active partitions belong to the links after this one.</summary>
    private static FindingKind? KindOf(LayoutProblemKind kind) => kind switch
    {
        LayoutProblemKind.NoTable => NoTable,
        LayoutProblemKind.Overlap => Overlap,
        LayoutProblemKind.PastEnd => PastEnd,
        LayoutProblemKind.BadActiveMark => BadMark,
        LayoutProblemKind.LogicalChainDamaged => LogicalDamaged,
        LayoutProblemKind.GptPrimaryDamaged => PrimaryDamaged,
        LayoutProblemKind.GptBackupDamaged => BackupDamaged,
        LayoutProblemKind.GptBackupMisplaced => BackupMisplaced,
        LayoutProblemKind.GptCopiesDiffer => CopiesDiffer,
        LayoutProblemKind.GptProtectiveMissing => ProtectiveMissing,
        LayoutProblemKind.GptBothDamaged => BothDamaged,
        LayoutProblemKind.Unreadable => TableUnreadable,
        LayoutProblemKind.LogicalUnreadable => LogicalUnreadable,
        LayoutProblemKind.GptPrimaryUnreadable => PrimaryUnreadable,
        LayoutProblemKind.GptBackupUnreadable => BackupUnreadable,
        _ => null
    };
}
