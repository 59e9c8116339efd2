using Keel.Core.Facts;
using Keel.Core.Machines;

namespace Keel.Core.Chain;

/// <summary>Disks that would not give everything that was asked of them.</summary>
internal static class ReadErrorFindings
{
    private const int SectorsTold = 64;

    public static readonly FindingKind Kind = new(
        "disk-read-errors",
        Link.DiskLayout,
        Severity.Warning,
        "The disk reports errors where it is read: it may be failing.",
        StartupScreens.UnexpectedIo,
        StartupScreens.DiskRead)
    {
        Beyond =
            "Make an image of the disk before anything else, and work on the image: keel disk image DEVICE OUT. Every further "
                + "access may cost more. 'keel disk health DEVICE' tells what the disk says of itself."
    };

    /// <summary>One finding a disk.</summary>
    public static IEnumerable<Finding> Of(Machine machine)
    {
        foreach (var disk in machine.Disks.Where(disk => disk.ReadErrors.Any))
        {
            var sectors = disk.ReadErrors.Sectors;
            yield return Kind.At(
                Fact.Disk.Is(disk.Path),
                Fact.SectorCount.Is(sectors.Count),
                Fact.Sectors.Is([.. sectors.Take(SectorsTold).Select(sector => Place(disk, sector))]));
        }
    }

    private static Remark Place(MachineDisk disk, long sector)
    {
        var at = sector * disk.Overlay.SectorBytes;
        var volume = disk.Volumes.FirstOrDefault(volume => volume.Partition.Range.Contains(at));
        return volume is null
            ? Remark.Of("sector", Fact.Sector.Is(sector))
            : Remark.Of("sector.in-volume", Fact.Sector.Is(sector), Fact.Volume.Is(volume.Ref));
    }
}
