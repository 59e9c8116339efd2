using System.IO.Hashing;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Layout;

/// <summary>One copy of a GUID partition table, primary or backup, and whether it can be trusted.</summary>
/// <param name="Header">The header.</param>
/// <param name="Entries">The entries that are used.</param>
/// <param name="Problem">What is wrong with it; null for a sound copy.</param>
internal sealed record GptCopy(GptHeader? Header, byte[]? Entries, string? Problem)
{
    private const int EntriesLimitBytes = 1024 * 1024;

    public bool IsSound => Problem is null;

    /// <summary>The disk did not give it: what stands there is not known.</summary>
    public bool IsUnreadable { get; private init; }

    /// <summary>
    /// The copy at the start, the one at the end, and the one where the first says that the other is, in this order.
    /// </summary>
    public static IReadOnlyList<GptCopy> All(IReadableBlocks disk)
    {
        var last = (disk.LengthBytes / disk.SectorBytes) - 1;
        var primary = Read(disk, 1);
        var copies = new List<GptCopy> { primary, Read(disk, last) };
        if (primary.Header is { OtherSector: > 1 and var other } && other < last) copies.Add(Read(disk, other));
        return copies;
    }

    /// <summary>The places on the disk that its entries name, also where its checksums are wrong.</summary>
    /// <param name="lastSector">The disk's last sector: what ends behind it names nothing.</param>
    public IEnumerable<SectorRange> Partitions(long lastSector)
    {
        if (Header is null || Entries is null) yield break;
        var size = (int)Header.EntryBytes;
        for (var at = 0; at + size <= Entries.Length; at += size)
        {
            var entry = Entries.At<GptEntryRecord>(at);
            if (entry.IsUsed
                && entry.FirstSector >= 0
                && entry.LastSector >= entry.FirstSector
                && entry.FirstSector <= lastSector)
            {
                yield return new SectorRange(entry.FirstSector, entry.LastSector);
            }
        }
    }

    /// <summary>Reads the copy whose header should stand in the given sector.</summary>
    public static GptCopy Read(IReadableBlocks disk, long headerSector)
    {
        try
        {
            return ReadAt(disk, headerSector);
        }
        catch (ReadFailedException e)
        {
            return new GptCopy(null, null, $"sector {string.Join(", ", e.Sectors.Take(3))} can't be read from the disk")
            {
                IsUnreadable = true
            };
        }
    }

    private static GptCopy ReadAt(IReadableBlocks disk, long headerSector)
    {
        var sector = disk.TryRead(headerSector * disk.SectorBytes, disk.SectorBytes);
        var header = sector is null ? null : GptHeader.TryRead(sector);
        if (header is null) return new GptCopy(null, null, $"sector {headerSector} holds no GPT header");
        if (!header.CrcMatches) return new GptCopy(header, null, $"the header in sector {headerSector} fails its checksum");
        if (header.OwnSector != headerSector)
        {
            return new GptCopy(
                header,
                null,
                $"the header in sector {headerSector} says that it stands in sector {header.OwnSector}");
        }

        if (header.EntryBytes < GptHeader.UsualEntryBytes || header.EntryBytes % 8 != 0 || header.EntryCount == 0
            || (long)header.EntryBytes * header.EntryCount > EntriesLimitBytes)
        {
            return new GptCopy(header, null, $"the header speaks of {header.EntryCount} entries of {header.EntryBytes} bytes");
        }

        return WithEntries(disk, header);
    }

    private static GptCopy WithEntries(IReadableBlocks disk, GptHeader header)
    {
        if (header.EntriesSector < 2 || header.EntriesSector > disk.LengthBytes / disk.SectorBytes)
        {
            return new GptCopy(
                header,
                null,
                $"its entries should stand in sector {header.EntriesSector}, where no entries can be");
        }

        var entries = disk.TryRead(header.EntriesSector * disk.SectorBytes, (int)(header.EntryBytes * header.EntryCount));
        if (entries is null) return new GptCopy(header, null, $"its entries in sector {header.EntriesSector} can't be read");
        return Crc32.HashToUInt32(entries) == header.EntriesCrc
            ? new GptCopy(header, entries, null)
            : new GptCopy(header, entries, $"the entries in sector {header.EntriesSector} fail their checksum");
    }
}
