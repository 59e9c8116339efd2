using Keel.Core.Blocks;
using Keel.Core.Layout;

namespace Keel.Core.Search;

/// <summary>
/// Where volumes usually begin: told by what is left of tables, by the custom of partition programs, by neighbours.
/// </summary>
internal sealed class SearchPlaces
{
    private const long AlignmentBytes = 1024 * 1024;
    private const int OldFirstSector = 63, CylinderSectors = 255 * 63;
    private const int AlignedLimit = 4096, CylinderLimit = 1024;
    private readonly SortedSet<long> places = [];
    private readonly HashSet<long> hints = [];
    private readonly long diskBytes;

    /// <param name="disk">The disk.</param>
    /// <param name="listed">What a table lists that may be trusted or not.</param>
    public SearchPlaces(IReadableBlocks disk, IEnumerable<ByteRange> listed)
    {
        diskBytes = disk.LengthBytes;
        var sectorBytes = disk.SectorBytes;
        foreach (var range in listed)
        {
            AddHint(range.Start);
            AddHint(range.End);
        }

        foreach (var copy in GptCopy.All(disk))
        {
            foreach (var partition in copy.Partitions((diskBytes / sectorBytes) - 1))
            {
                AddHint(partition.First * sectorBytes);
                AddHint((partition.Last + 1) * sectorBytes);
            }
        }

        Add((long)OldFirstSector * sectorBytes);
        for (long number = 1; number <= AlignedLimit; number++) Add(number * AlignmentBytes);
        for (long number = 1; number <= CylinderLimit; number++)
        {
            Add(number * CylinderSectors * sectorBytes);
            Add(((number * CylinderSectors) + OldFirstSector) * sectorBytes);
        }

        places.Add(diskBytes);                                  // the last volume's backup may stand before the end
    }

    /// <summary>Adds a place, such as the end of a neighbour.</summary>
    public void Add(long place)
    {
        if (place > 0 && place < diskBytes) places.Add(place);
    }

    /// <summary>Whether a table, or what is left of one, names the place.</summary>
    public bool IsHint(long place) => hints.Contains(place);

    private void AddHint(long place)
    {
        Add(place);
        hints.Add(place);
    }

    /// <summary>The first place from there on; null where there is none.</summary>
    public long? From(long place) =>
        places.GetViewBetween(place, long.MaxValue).Min is > 0 and var next ? next : null;
}
