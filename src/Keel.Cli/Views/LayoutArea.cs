using Keel.Core.Blocks;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Search;
using Keel.Core.Volumes;

namespace Keel.Cli.Views;

/// <summary>One stretch of a disk: a partition, a volume that no table lists, or free space.</summary>
internal sealed record LayoutArea(ByteRange Range, Partition? Partition, DiskVolume? Volume, FoundVolume? Found)
{
    private const long WorthShowing = 1024 * 1024;

    /// <summary>The stretches of a disk in its order; slivers of less than a MiB between them are left out.</summary>
    public static IReadOnlyList<LayoutArea> Of(MachineDisk disk, SearchResult search)
    {
        var areas = disk.Layout.Partitions
            .Where(partition => !partition.IsExtended)
            .Select(partition => new LayoutArea(
                partition.Range,
                partition,
                disk.Volumes.FirstOrDefault(volume => volume.Number == partition.Number),
                search.Volumes.FirstOrDefault(volume => volume.Range.Start == partition.Range.Start)))
            .ToList();
        areas.AddRange(search.Volumes
            .Where(volume => !areas.Exists(area => area.Range.Overlaps(volume.Range)))
            .Select(volume => new LayoutArea(volume.Range, null, null, volume))
            .ToList());
        areas = [.. areas.OrderBy(area => area.Range.Start)];
        var result = new List<LayoutArea>();
        var at = 0L;
        foreach (var area in areas)
        {
            AddFree(result, at, area.Range.Start);
            result.Add(area);
            at = Math.Max(at, area.Range.End);
        }

        AddFree(result, at, disk.Overlay.LengthBytes);
        return result;
    }

    /// <summary>"partition", "unlisted" or "free".</summary>
    public string Kind => Partition is not null ? "partition" : Found is not null ? "unlisted" : "free";

    private static void AddFree(List<LayoutArea> areas, long from, long to)
    {
        if (to - from > WorthShowing) areas.Add(new LayoutArea(new ByteRange(from, to - from), null, null, null));
    }
}
