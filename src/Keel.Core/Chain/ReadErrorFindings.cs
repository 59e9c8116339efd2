namespace Keel.Core.Chain;

/// <summary>Disks that would not give everything that was asked of them.</summary>
internal static class ReadErrorFindings
{
    private const int SectorsShown = 6;

    public static readonly FindingKind Kind = new("disk-read-errors", Link.DiskLayout, Severity.Warning, "The disk reports errors where it is read: it may be failing.", Screens.UnexpectedIo, Screens.DiskRead)
    {
        Beyond = "Make an image of the disk before anything else, and work on the image: every further access may cost more. Then look at the disk's own health report."
    };

    /// <summary>One finding a disk.</summary>
    public static IEnumerable<Finding> Of(Machine machine)
    {
        foreach (var disk in machine.Disks.Where(disk => disk.ReadErrors.Any))
        {
            var sectors = disk.ReadErrors.Sectors;
            var shown = string.Join(", ", sectors.Take(SectorsShown).Select(sector => Place(disk, sector))) + (sectors.Count > SectorsShown ? " and more" : "");
            yield return Kind.At($"{disk.Path}: {sectors.Count} {(sectors.Count == 1 ? "sector" : "sectors")} of those that were read can't be: {shown}");
        }
    }

    private static string Place(MachineDisk disk, long sector)
    {
        var at = sector * disk.Overlay.SectorBytes;
        var volume = disk.Volumes.FirstOrDefault(volume => volume.Partition.Range.Contains(at));
        return volume is null ? $"{sector}" : $"{sector} (in {volume})";
    }
}
