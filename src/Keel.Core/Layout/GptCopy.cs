using System.IO.Hashing;
using Keel.Core.Blocks;

namespace Keel.Core.Layout;

/// <summary>One copy of a GUID partition table, primary or backup, and whether it can be trusted.</summary>
/// <param name="Problem">What is wrong with it; null for a sound copy.</param>
internal sealed record GptCopy(GptHeader? Header, byte[]? Entries, string? Problem)
{
    private const int EntriesLimitBytes = 1024 * 1024;

    public bool IsSound => Problem is null;

    /// <summary>Reads the copy whose header should stand in the given sector.</summary>
    public static GptCopy Read(IReadableBlocks disk, long headerSector)
    {
        var sector = disk.TryRead(headerSector * disk.SectorBytes, disk.SectorBytes);
        var header = sector is null ? null : GptHeader.TryRead(sector);
        if (header is null) return new GptCopy(null, null, $"sector {headerSector} holds no GPT header");
        if (!header.CrcMatches) return new GptCopy(header, null, $"the header in sector {headerSector} fails its checksum");
        if (header.OwnSector != headerSector) return new GptCopy(header, null, $"the header in sector {headerSector} says that it stands in sector {header.OwnSector}");
        if (header.EntryBytes < GptHeader.UsualEntryBytes || header.EntryBytes % 8 != 0 || header.EntryCount == 0
            || (long)header.EntryBytes * header.EntryCount > EntriesLimitBytes)
            return new GptCopy(header, null, $"the header speaks of {header.EntryCount} entries of {header.EntryBytes} bytes");
        return WithEntries(disk, header);
    }

    private static GptCopy WithEntries(IReadableBlocks disk, GptHeader header)
    {
        if (header.EntriesSector < 0 || header.EntriesSector > disk.LengthBytes / disk.SectorBytes)
            return new GptCopy(header, null, $"its entries should stand in sector {header.EntriesSector}, beyond the end");
        var entries = disk.TryRead(header.EntriesSector * disk.SectorBytes, (int)(header.EntryBytes * header.EntryCount));
        if (entries is null) return new GptCopy(header, null, $"its entries in sector {header.EntriesSector} can't be read");
        return Crc32.HashToUInt32(entries) == header.EntriesCrc
            ? new GptCopy(header, entries, null)
            : new GptCopy(header, entries, $"the entries in sector {header.EntriesSector} fail their checksum");
    }
}
