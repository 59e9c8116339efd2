using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.BootCode.Loading;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.Chain.Checks;

/// <summary>
/// The boot sector of the system volume: mark, parameters, agreement with the partition table, and what its code looks for.
/// </summary>
internal sealed class BootSectorCheck : ILinkCheck
{
    public static readonly FindingKind Wiped = new(
        "sector-wiped",
        Link.BootSector,
        Severity.Error,
        "The boot sector of the system volume is gone; its backup copy is there.",
        StartupScreens.MissingSystem,
        StartupScreens.NotFound);

    public static readonly FindingKind BothGone = new(
        "sector-both-copies-gone",
        Link.BootSector,
        Severity.Error,
        "The boot sector of the system volume and its backup copy are gone.",
        StartupScreens.MissingSystem,
        StartupScreens.NotFound);

    public static readonly FindingKind MarkMissing = new(
        "sector-mark-missing",
        Link.BootSector,
        Severity.Error,
        "The boot sector does not end with 55 AA.",
        StartupScreens.MissingSystem);

    public static readonly FindingKind WrongHidden = new(
        "sector-wrong-hidden",
        Link.BootSector,
        Severity.Error,
        "The boot sector has the wrong number of hidden sectors.",
        StartupScreens.DiskRead);

    public static readonly FindingKind NoCode = new(
        "sector-code-missing",
        Link.BootSector,
        Severity.Error,
        "The boot sector has no boot code that starts anything.",
        StartupScreens.BlinkingCursor,
        StartupScreens.NotFound);

    public static readonly FindingKind CodeDiffers = new(
        "sector-code-differs",
        Link.BootSector,
        Severity.Warning,
        "The boot code differs in a few bytes from its backup copy: one of the two is damaged.",
        StartupScreens.DiskRead,
        StartupScreens.BlinkingCursor);

    public static readonly FindingKind Nt5Code = new(
        "sector-nt5-code",
        Link.BootSector,
        Severity.Error,
        "The boot sector looks for the older loader NTLDR, and the volume has the boot manager.",
        StartupScreens.Nt5Missing);

    public static readonly FindingKind ManagerCode = new(
        "nt5-sector-loads-bootmgr",
        Link.BootSector,
        Severity.Error,
        "The boot sector looks for the boot manager of later Windows, and the machine starts through NTLDR.",
        StartupScreens.ManagerMissing);

    public static readonly FindingKind ForeignCode = new(
        "sector-code-foreign",
        Link.BootSector,
        Severity.Warning,
        "Another system's boot loader stands in the boot sector.",
        StartupScreens.NotFound,
        StartupScreens.BlinkingCursor);

    public static readonly FindingKind UnknownCode = new(
        "sector-code-unknown",
        Link.BootSector,
        Severity.Warning,
        "The code in the boot sector is not known here; it may be damaged.",
        StartupScreens.BlinkingCursor,
        StartupScreens.DiskRead);

    public static readonly FindingKind LargeSectors = new(
        "disk-large-sectors",
        Link.BootSector,
        Severity.Warning,
        "The disk has sectors of 4096 bytes, and what starts through BIOS reads sectors of 512.",
        StartupScreens.NoBootDevice,
        StartupScreens.DiskRead)
    {
        Beyond =
            "Such a disk is started through UEFI, from a GPT with an EFI system partition. If this is an image, see that its "
                + "sector size is right: --sector 512 or 4096."
    };

    public static readonly FindingKind WrongMft = new(
        "sector-wrong-mft",
        Link.BootSector,
        Severity.Error,
        "The boot sector says that $MFT or its mirror begins elsewhere than they do.",
        StartupScreens.DiskRead,
        StartupScreens.UnmountableVolume);

    public static readonly FindingKind WrongFields = new(
        "sector-wrong-fields",
        Link.BootSector,
        Severity.Error,
        "The boot sector of the system volume describes another file system than the one that stands there.",
        StartupScreens.DiskRead,
        StartupScreens.ManagerMissing,
        StartupScreens.UnmountableVolume);

    public static readonly FindingKind Encrypted = new(
        "system-volume-encrypted",
        Link.BootSector,
        Severity.Error,
        "The system volume is encrypted by BitLocker.",
        StartupScreens.Locked);

    private const string Nt5LoaderPath = @"\ntldr";

    public Link Link => Link.BootSector;

    public IReadOnlyList<FindingKind> Kinds =>
    [
        Wiped, BothGone, MarkMissing, WrongHidden, NoCode, CodeDiffers, Nt5Code, ManagerCode, ForeignCode,
        UnknownCode, LargeSectors, WrongMft, Encrypted, WrongFields
    ];

    public LinkReport Check(Machine machine)
    {
        if (machine.SystemVolume is not { } volume) return LinkReport.Unreached("system-volume.not-known");
        if (volume.Kind == FileSystemKind.BitLocker) return LinkReport.Wrong(
            Encrypted,
            [Fact.Volume.Is(volume.Ref), .. EncryptionHealth.FactsOf(volume.Encryption)]);
        if (volume.Unreadable is { } error) throw error;
        if (volume.SectorFault is { } fault)
            return LinkReport.Wrong(WrongFields, Fact.Volume.Is(volume.Ref), Fact.Names.Is(fault.Fields));
        var sector = volume.Blocks.TryRead(0, NtfsBootSector.Size);
        var place = sector is null ? null : Place.Read(sector);
        if (place is null)
        {
            var backup = BootSectorRescue.FindBackup(volume);
            KnownFact[] seen = [Fact.Volume.Is(volume.Ref), Fact.IsReadable.Is(sector is not null)];
            return backup is null
                ? LinkReport.Wrong(BothGone, seen)
                : LinkReport.Wrong(Wiped, [.. seen, Fact.Backup.Is(FileSystemProbe.Name(backup.Value.Kind))]);
        }

        var findings = new List<Finding>();
        if (volume.Blocks.SectorBytes != BootCodeLoading.SectorBytes)
            findings.Add(LargeSectors.At(Fact.Disk.Is(volume.DiskPath), Fact.SectorBytes.Is(volume.Blocks.SectorBytes)));
        var expected = volume.Partition.Range.Start / volume.Blocks.SectorBytes;
        if (!place.HasMark) findings.Add(MarkMissing.At(Fact.Volume.Is(volume.Ref)));
        if (place.Hidden != expected)
        {
            findings.Add(
                WrongHidden.At(Fact.Volume.Is(volume.Ref), Fact.HiddenSectors.Is(place.Hidden), Fact.Sector.Is(expected)));
        }

        if (WrongPointer(volume) is { } pointer) findings.Add(WrongMft.At(pointer));
        var reading = BootSectorCopy.Recognize(volume.Blocks, volume.Kind);
        if ((CodeFinding(machine, volume, reading) ?? AlteredCode(volume, reading)) is { } wrong) findings.Add(wrong);
        return LinkReport.Of(findings, Remark.Of(
            "boot-sector.sound",
            Fact.FileSystem.Is(FileSystemProbe.Name(volume.Kind)),
            Fact.Code.Is(reading?.Name ?? ""),
            Fact.HiddenSectors.Is(place.Hidden)));
    }

    /// <summary>Code of Windows of which a few bytes differ from the backup copy: one of the two is damaged.</summary>
    private static Finding? AlteredCode(DiskVolume volume, CodeReading? reading)
    {
        const int fewBytes = 64;
        if (reading is not { Owner: CodeOwner.Windows }
            || BootSectorRescue.FindBackup(volume) is not { } backup
            || backup.Kind != volume.Kind
            || volume.Blocks.TryRead(0, NtfsBootSector.Size) is not { } sector)
        {
            return null;
        }

        var different = Enumerable
            .Range(BootSectorCopy.CodeAt(volume.Kind), NtfsBootSector.Size - BootSectorCopy.CodeAt(volume.Kind))
            .Count(at => sector[at] != backup.Sector[at]);
        return different is > 0 and <= fewBytes
            ? CodeDiffers.At(Fact.Volume.Is(volume.Ref), Fact.DifferentBytes.Is(different))
            : null;
    }

    /// <summary>How the boot sector and the records of $MFT contradict each other; null where they don't.</summary>
    internal static Remark? WrongPointer(DiskVolume volume)
    {
        if (volume.Kind != FileSystemKind.Ntfs || NtfsMirror.Of(volume.Blocks) is not { PointersContradict: true } mirror)
            return null;
        return Remark.Of(
            "sector-wrong-mft",
            Fact.Volume.Is(volume.Ref),
            Fact.Cluster.Is(mirror.Boot.MftCluster),
            Fact.MirrorCluster.Is(mirror.Boot.MftMirrorCluster),
            Fact.OwnCluster.Is(mirror.SaysMftCluster ?? 0),
            Fact.OwnMirrorCluster.Is(mirror.SaysMirrorCluster ?? 0));
    }

    private static Finding? CodeFinding(Machine machine, DiskVolume volume, CodeReading? reading) => reading switch
    {
        null => null,
        { Owner: CodeOwner.Blank } => NoCode.At(Fact.Volume.Is(volume.Ref), Fact.Code.Is(reading.Name)),
        { Owner: CodeOwner.Foreign } => ForeignCode.At(Fact.Volume.Is(volume.Ref), Fact.Code.Is(reading.Name)),
        { Owner: CodeOwner.Unknown } => UnknownCode.At(Fact.Volume.Is(volume.Ref)),
        { Loader: LoaderKind.Nt5Loader } when volume.Files is { } files
            && files.Find(BootFiles.Bios.ManagerPath) is not null
            && files.Find(Nt5LoaderPath) is null
            => Nt5Code.At(Fact.Volume.Is(volume.Ref)),
        { Loader: LoaderKind.BootManager } when machine.Nt5Evidence is not null => ManagerCode.At(Fact.Volume.Is(volume.Ref)),
        _ => null
    };

    /// <summary>What both file systems say of the volume's place.</summary>
    private sealed record Place(bool HasMark, uint Hidden)
    {
        public static Place? Read(ReadOnlySpan<byte> sector) =>
            NtfsBootSector.TryRead(sector) is { IsPlausible: true } ntfs ? new Place(ntfs.HasMark, ntfs.HiddenSectors)
            : FatBootSector.TryRead(sector) is { } fat ? new Place(fat.HasMark, fat.HiddenSectors)
            : null;
    }
}
