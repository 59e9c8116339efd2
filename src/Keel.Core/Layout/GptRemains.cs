using Keel.Core.Blocks;

namespace Keel.Core.Layout;

/// <summary>What is left of a GUID partition table, whether or not its checksums are right.</summary>
/// <param name="DiskGuid">The GUID of the disk; empty where no header is left.</param>
/// <param name="Partitions">The partitions that entries name, each once.</param>
/// <param name="HeaderSectors">Where headers stand.</param>
public sealed record GptRemains(Guid DiskGuid, IReadOnlyList<Partition> Partitions, IReadOnlyList<long> HeaderSectors)
{
    private const int UsualArrayBytes = GptHeader.UsualEntryBytes * (int)GptHeader.UsualEntryCount, ScanBytes = 2 * 1024 * 1024;
    private const long LeastFirstSector = 6;

    /// <summary>Whether there is anything.</summary>
    public bool Any => DiskGuid != default || Partitions.Count > 0;

    /// <summary>Looks at both ends of the disk, where headers lead, and behind given places.</summary>
    /// <param name="disk">The disk.</param>
    /// <param name="ends">Where volumes end, in bytes: on a disk that has grown, the second copy stands behind the last.</param>
    public static GptRemains Of(IReadableBlocks disk, IEnumerable<long> ends)
    {
        var headers = new SortedDictionary<long, GptHeader>();
        var sectors = disk.LengthBytes / disk.SectorBytes;
        Add(disk, 1, headers);
        Add(disk, sectors - 1, headers);
        foreach (var header in headers.Values.ToList()) Add(disk, header.OtherSector, headers);
        if (!headers.Values.Any(header => header.CrcMatches))
        {
            foreach (var end in ends.OrderDescending().Take(4)) AddBehind(disk, end, headers);
        }

        var arrays = headers.Values
            .OrderByDescending(header => header.CrcMatches)
            .Select(header => (header.EntriesSector, Bytes: ArrayBytes(header)))
            .Concat([(2, UsualArrayBytes), (sectors - 1 - (UsualArrayBytes / disk.SectorBytes), UsualArrayBytes)])
            .Distinct();
        var partitions = new List<Partition>();
        foreach (var (sector, bytes) in arrays) Read(disk, sector, bytes, partitions);
        var guid = headers.Values
            .OrderByDescending(header => header.CrcMatches)
            .Select(header => header.DiskGuid)
            .FirstOrDefault(id => id != default);
        return new GptRemains(guid, partitions, [.. headers.Keys]);
    }

    private static int ArrayBytes(GptHeader header)
    {
        const int limitBytes = 1024 * 1024;
        var bytes = (long)header.EntryBytes * header.EntryCount;
        return header.EntryBytes == GptHeader.UsualEntryBytes && bytes is > 0 and <= limitBytes ? (int)bytes : UsualArrayBytes;
    }

    private static void Add(IReadableBlocks disk, long sector, SortedDictionary<long, GptHeader> headers)
    {
        if (sector < 1 || sector >= disk.LengthBytes / disk.SectorBytes || headers.ContainsKey(sector)) return;
        if (disk.TryReadAnyway(sector * disk.SectorBytes, disk.SectorBytes) is { } bytes
            && GptHeader.TryRead(bytes) is { } header
            && header.OwnSector == sector)
        {
            headers.Add(sector, header);
        }
    }

    private static void AddBehind(IReadableBlocks disk, long end, SortedDictionary<long, GptHeader> headers)
    {
        var from = end / disk.SectorBytes * disk.SectorBytes;
        var bytes = (int)Math.Min(ScanBytes, disk.LengthBytes - from);
        if (bytes <= 0 || disk.TryReadAnyway(from, bytes) is not { } run) return;
        for (var at = 0; at + disk.SectorBytes <= run.Length; at += disk.SectorBytes)
        {
            if (run.AsSpan(at).StartsWith(GptHeader.Mark)) Add(disk, (from + at) / disk.SectorBytes, headers);
        }
    }

    private static void Read(IReadableBlocks disk, long sector, int bytes, List<Partition> partitions)
    {
        if (sector < 2 || disk.TryReadAnyway(sector * disk.SectorBytes, bytes) is not { } array) return;
        for (var at = 0; at + GptHeader.UsualEntryBytes <= array.Length; at += GptHeader.UsualEntryBytes)
        {
            var entry = array.At<GptEntryRecord>(at);
            if (!entry.IsUsed || entry.Id == default) continue;
            if (entry.FirstSector < LeastFirstSector
                || entry.LastSector < entry.FirstSector
                || entry.LastSector >= disk.LengthBytes / disk.SectorBytes) continue;
            var start = entry.FirstSector * disk.SectorBytes;
            var range = new ByteRange(start, ((entry.LastSector + 1) * disk.SectorBytes) - start);
            if (partitions.Exists(known => known.Id == entry.Id || known.Range.Overlaps(range))) continue;
            partitions.Add(new Partition(
                (at / GptHeader.UsualEntryBytes) + 1,
                range,
                MbrType: 0,
                entry.Type,
                entry.Id,
                Active: false,
                Logical: false,
                entry.Name.ToString())
            {
                Attributes = entry.Attributes
            });
        }
    }
}
