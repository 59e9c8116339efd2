using System.IO.Hashing;
using Keel.Core.Blocks;

namespace Keel.Core.Layout;

/// <summary>A header of a GUID partition table (UEFI specification, "GPT Header").</summary>
public sealed record GptHeader(
    int HeaderBytes,
    long OwnSector,
    long OtherSector,
    long FirstUsableSector,
    long LastUsableSector,
    Guid DiskGuid,
    long EntriesSector,
    uint EntryCount,
    uint EntryBytes,
    uint EntriesCrc,
    bool CrcMatches)
{
    /// <summary>The least that a header may say of its size, in bytes.</summary>
    public const int MinimumBytes = 92;

    /// <summary>The usual size of an entry, in bytes.</summary>
    public const int UsualEntryBytes = 128;

    /// <summary>How many entries an array usually has.</summary>
    public const uint UsualEntryCount = 128;

    /// <summary>How a header begins.</summary>
    public static ReadOnlySpan<byte> Mark => "EFI PART"u8;

    private const uint Revision = 0x00010000;

    /// <summary>Reads a header from its sector; nothing where the mark is missing or the header's own size is absurd.</summary>
    public static GptHeader? TryRead(ReadOnlySpan<byte> sector)
    {
        if (!sector.StartsWith(Mark) || sector.Length < MinimumBytes) return null;
        var record = sector.At<GptHeaderRecord>(0);
        if (record.HeaderBytes < MinimumBytes || record.HeaderBytes > sector.Length) return null;
        return new GptHeader(
            (int)record.HeaderBytes,
            record.OwnSector,
            record.OtherSector,
            record.FirstUsableSector,
            record.LastUsableSector,
            record.DiskGuid,
            record.EntriesSector,
            record.EntryCount,
            record.EntryBytes,
            record.EntriesCrc,
            CrcOf(sector[..(int)record.HeaderBytes]) == record.Crc);
    }

    /// <summary>A sector with this header, its checksum computed, rest zero.</summary>
    public byte[] ToSector(int sectorBytes)
    {
        var sector = new byte[sectorBytes];
        var record = new GptHeaderRecord
        {
            Mark = Bytes8.Of(Mark),
            Revision = Revision,
            HeaderBytes = (uint)HeaderBytes,
            OwnSector = OwnSector,
            OtherSector = OtherSector,
            FirstUsableSector = FirstUsableSector,
            LastUsableSector = LastUsableSector,
            DiskGuid = DiskGuid,
            EntriesSector = EntriesSector,
            EntryCount = EntryCount,
            EntryBytes = EntryBytes,
            EntriesCrc = EntriesCrc
        };
        sector.Put(0, record);
        record.Crc = CrcOf(sector.AsSpan(0, HeaderBytes));
        sector.Put(0, record);
        return sector;
    }

    /// <summary>The checksum of a header, for which its own field counts as zero.</summary>
    private static uint CrcOf(ReadOnlySpan<byte> header)
    {
        var zeroed = header.ToArray();
        zeroed.Put(0, header.At<GptHeaderRecord>(0) with { Crc = 0 });
        return Crc32.HashToUInt32(zeroed);
    }
}
