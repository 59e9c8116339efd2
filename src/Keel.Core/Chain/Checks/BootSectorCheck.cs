using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.BootCode.Loading;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Chain.Checks;

/// <summary>The boot sector of the system volume: mark, parameters, agreement with the partition table, and what its code looks for.</summary>
internal sealed class BootSectorCheck : ILinkCheck
{
    public static readonly FindingKind Wiped = new("sector-wiped", Link.BootSector, Severity.Error, "The boot sector of the system volume is gone; its backup copy is there.", Screens.MissingSystem, Screens.NotFound);
    public static readonly FindingKind BothGone = new("sector-both-copies-gone", Link.BootSector, Severity.Error, "The boot sector of the system volume and its backup copy are gone.", Screens.MissingSystem, Screens.NotFound);
    public static readonly FindingKind MarkMissing = new("sector-mark-missing", Link.BootSector, Severity.Error, "The boot sector does not end with 55 AA.", Screens.MissingSystem);
    public static readonly FindingKind WrongHidden = new("sector-wrong-hidden", Link.BootSector, Severity.Error, "The boot sector has the wrong number of hidden sectors.", Screens.DiskRead);
    public static readonly FindingKind NoCode = new("sector-code-missing", Link.BootSector, Severity.Error, "The boot sector has no boot code that starts anything.", Screens.BlinkingCursor, Screens.NotFound);
    public static readonly FindingKind Nt5Code = new("sector-nt5-code", Link.BootSector, Severity.Error, "The boot sector looks for the older loader NTLDR, and the volume has the boot manager.", Screens.Nt5Missing);
    public static readonly FindingKind ForeignCode = new("sector-code-foreign", Link.BootSector, Severity.Warning, "Another system's boot loader stands in the boot sector.", Screens.NotFound, Screens.BlinkingCursor);
    public static readonly FindingKind UnknownCode = new("sector-code-unknown", Link.BootSector, Severity.Warning, "The code in the boot sector is not known here; it may be damaged.", Screens.BlinkingCursor, Screens.DiskRead);
    public static readonly FindingKind LargeSectors = new("disk-large-sectors", Link.BootSector, Severity.Warning, "The disk has sectors of 4096 bytes, and what starts through BIOS reads sectors of 512.", Screens.NoBootDevice, Screens.DiskRead)
    {
        Beyond = "Such a disk is started through UEFI, from a GPT with an EFI system partition. If this is an image, see that its sector size is right: --sector 512 or 4096."
    };

    public static readonly FindingKind WrongMft = new("sector-wrong-mft", Link.BootSector, Severity.Error, "The boot sector says that $MFT or its mirror begins elsewhere than they do.", Screens.DiskRead, Screens.UnmountableVolume);
    public static readonly FindingKind Encrypted = new("system-volume-encrypted", Link.BootSector, Severity.Error, "The system volume is encrypted by BitLocker.", Screens.Locked);
    private const string Nt5LoaderPath = @"\ntldr";

    public Link Link => Link.BootSector;

    public LinkReport Check(Machine machine)
    {
        if (machine.SystemVolume is not { } volume) return LinkReport.Unreached("the system volume is not known");
        if (volume.Kind == FileSystemKind.BitLocker) return LinkReport.Wrong(Encrypted, $"{volume} has the mark of BitLocker");
        if (volume.Unreadable is { } error) throw error;
        var sector = volume.Blocks.TryRead(0, NtfsBootSector.Size);
        var place = sector is null ? null : Place.Read(sector);
        if (place is null)
        {
            var backup = BootSectorRescue.FindBackup(volume);
            var evidence = $"the first sector of {volume} is {(sector is null ? "unreadable" : "not a boot sector of NTFS or FAT")}";
            return backup is null ? LinkReport.Wrong(BothGone, $"{evidence}, and no backup copy was found") : LinkReport.Wrong(Wiped, $"{evidence}; a backup copy of {FileSystemProbe.Name(backup.Value.Kind)} is there");
        }

        var findings = new List<Finding>();
        if (volume.Blocks.SectorBytes != BootCodeLoading.SectorBytes) findings.Add(LargeSectors.At($"{volume.DiskPath} has sectors of {volume.Blocks.SectorBytes} bytes"));
        var expected = volume.Partition.Range.Start / volume.Blocks.SectorBytes;
        if (!place.HasMark) findings.Add(MarkMissing.At($"bytes 510 and 511 of the first sector of {volume} are not 55 AA"));
        if (place.Hidden != expected) findings.Add(WrongHidden.At($"{volume} says {place.Hidden} hidden sectors; it starts at sector {expected}"));
        if (WrongPointer(volume) is { } pointer) findings.Add(WrongMft.At(pointer));
        var reading = BootSectorCopy.Recognize(volume.Blocks, volume.Kind);
        if (CodeFinding(volume, reading) is { } wrong) findings.Add(wrong);
        return LinkReport.Of(findings.Count == 0 ? $"{FileSystemProbe.Name(volume.Kind)}, the code is {reading?.Name}, {place.Hidden} hidden sectors" : findings[0].Evidence, findings);
    }

    /// <summary>How the boot sector and the records of $MFT contradict each other; null where they don't.</summary>
    internal static string? WrongPointer(DiskVolume volume) => volume.Kind == FileSystemKind.Ntfs && NtfsMirror.Of(volume.Blocks) is { PointersContradict: true } mirror
        ? $"{volume} says that $MFT begins at cluster {mirror.Boot.MftCluster} and its mirror at {mirror.Boot.MftMirrorCluster}; their own records say {mirror.SaysMftCluster} and {mirror.SaysMirrorCluster}"
        : null;

    private static Finding? CodeFinding(DiskVolume volume, CodeReading? reading) => reading switch
    {
        null => null,
        { Owner: CodeOwner.Blank } => NoCode.At($"the code of {volume}: {reading.Name}"),
        { Owner: CodeOwner.Foreign } => ForeignCode.At($"the code of {volume} is that of {reading.Name}"),
        { Owner: CodeOwner.Unknown } => UnknownCode.At($"the code of {volume} is neither keel's nor Windows', nor of a loader that is known here"),
        { Loader: LoaderKind.Nt5Loader } when volume.Files is { } files && files.Find(BootFiles.Bios.ManagerPath) is not null && files.Find(Nt5LoaderPath) is null
            => Nt5Code.At($"the code of {volume} looks for NTLDR, which is not there; BOOTMGR is"),
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
