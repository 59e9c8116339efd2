using Keel.Core.Blocks;
using Keel.Core.Layout;

namespace Keel.Core.Rescue;

/// <summary>Finds, or works out, where the links of a chain of logical partitions stand.</summary>
internal sealed class LogicalChainRescue
{
    private readonly IReadableBlocks disk;
    private readonly List<ByteRange> volumes;
    private readonly Partition? extended;
    private readonly List<LogicalLink> links;

    /// <param name="disk">The disk.</param>
    /// <param name="listed">What the table lists.</param>
    /// <param name="found">The volumes that it does not list.</param>
    public LogicalChainRescue(IReadableBlocks disk, IReadOnlyList<Partition> listed, IReadOnlyList<ByteRange> found)
    {
        this.disk = disk;
        extended = listed.FirstOrDefault(partition => partition.IsExtended);
        volumes = [.. listed.Where(partition => !partition.IsExtended).Select(partition => partition.Range), .. found];
        links = [.. volumes.Select(range => LogicalLink.Before(disk, range.Start / disk.SectorBytes)).OfType<LogicalLink>()];
    }

    /// <summary>
    /// The sector of a volume's link, its range and type as that says; no sector where it is none of the chain, and no type where
    /// the link is gone.
    /// </summary>
    public (long? Sector, ByteRange Range, byte? Type) LinkOf(ByteRange volume)
    {
        var first = volume.Start / disk.SectorBytes;
        if (LogicalLink.Before(disk, first) is { } link && IsOfChain(link))
        {
            var named = link.Count * disk.SectorBytes;
            var fits = named >= volume.Length && volume.Start + named <= disk.LengthBytes;
            return (link.Sector, fits ? new ByteRange(volume.Start, named) : volume, link.Type);
        }

        return (LostLink(first), volume, null);
    }

    /// <summary>A link of an earlier table may stand before a primary partition: it has no company there.</summary>
    private bool IsOfChain(LogicalLink link) =>
        extended is null || extended.Range.Contains(link.Sector * disk.SectorBytes);

    /// <summary>
    /// Where a link that is gone must have stood: where the one before it leads, or as far before as the others.
    /// </summary>
    private long? LostLink(long first)
    {
        if (extended is null && links.Count == 0) return null;
        var start = extended is null ? links.Min(link => link.Sector) : extended.Range.Start / disk.SectorBytes;
        var free = volumes
            .Select(range => range.End / disk.SectorBytes)
            .Where(end => end <= first)
            .DefaultIfEmpty(1)
            .Max();
        var ledTo = links.Select(link => link.NextSector(disk, start)).OfType<long>();
        var places = (extended is null ? ledTo : ledTo.Append(start)).Where(place => place >= free && place < first).ToList();
        if (places.Count > 0) return places.Max();
        if (extended is null || !extended.Range.Contains(first * disk.SectorBytes)) return null;
        var distance = links.Count > 0 ? links[0].First - links[0].Sector : Math.Min(2048, first - free);
        return first - distance >= Math.Max(free, start) ? first - distance : null;
    }
}
