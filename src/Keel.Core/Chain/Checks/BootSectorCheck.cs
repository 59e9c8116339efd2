using Keel.Core.Blocks;
using Keel.Core.Volumes;

namespace Keel.Core.Chain.Checks;

/// <summary>The first sector of the system volume: its mark, its parameters, and their agreement with the partition table.</summary>
internal sealed class BootSectorCheck : ILinkCheck
{
    public static readonly FindingKind Wiped = new("sector-wiped", Link.BootSector, Severity.Error, "The boot sector of the system volume is gone.", Screens.MissingSystem, Screens.NotFound);
    public static readonly FindingKind MarkMissing = new("sector-mark-missing", Link.BootSector, Severity.Error, "The boot sector does not end with 55 AA.", Screens.MissingSystem);
    public static readonly FindingKind WrongHidden = new("sector-wrong-hidden", Link.BootSector, Severity.Error, "The boot sector has the wrong number of hidden sectors.", Screens.DiskRead);
    public static readonly FindingKind Encrypted = new("volume-encrypted", Link.BootSector, Severity.Error, "The system volume is encrypted by BitLocker.", Screens.Locked);

    public Link Link => Link.BootSector;

    public LinkReport Check(Machine machine)
    {
        if (machine.SystemVolume is not { } volume) return LinkReport.Unreached("the system volume is not known");
        if (volume.Kind == FileSystemKind.BitLocker) return LinkReport.Wrong(Encrypted, $"{volume} has the mark of BitLocker");
        if (volume.Blocks.TryRead(0, NtfsBootSector.Size) is not { } sector) return LinkReport.Wrong(Wiped, $"the first sector of {volume} can't be read");
        return NtfsBootSector.TryRead(sector) is { } ntfs ? CheckNtfs(volume, ntfs)
            : FatBootSector.TryRead(sector) is { } fat ? CheckParameters(volume, fat.HasMark, fat.HiddenSectors, FileSystemProbe.Name(fat.Kind))
            : LinkReport.Wrong(Wiped, $"the first sector of {volume} is not a boot sector of NTFS or FAT");
    }

    private static LinkReport CheckNtfs(DiskVolume volume, NtfsBootSector sector) =>
        sector.IsPlausible
            ? CheckParameters(volume, sector.HasMark, sector.HiddenSectors, "NTFS")
            : LinkReport.Wrong(Wiped, $"the parameters in the first sector of {volume} make no sense");

    private static LinkReport CheckParameters(DiskVolume volume, bool hasMark, uint hidden, string name)
    {
        var expected = volume.Partition.Range.Start / volume.Blocks.SectorBytes;
        var findings = new List<Finding>();
        if (!hasMark) findings.Add(MarkMissing.At($"bytes 510 and 511 of the first sector of {volume} are not 55 AA"));
        if (hidden != expected) findings.Add(WrongHidden.At($"{volume} says {hidden} hidden sectors; it starts at sector {expected}"));
        return LinkReport.Of(findings.Count == 0 ? $"{name}, {hidden} hidden sectors, as the table says" : findings[0].Evidence, findings);
    }
}
