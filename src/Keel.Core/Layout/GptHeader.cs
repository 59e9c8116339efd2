using System.Buffers.Binary;
using System.IO.Hashing;

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
    public const int MinimumBytes = 92;
    public const int UsualEntryBytes = 128;
    public const uint UsualEntryCount = 128;
    public static ReadOnlySpan<byte> Mark => "EFI PART"u8;

    private const int RevisionAt =
        8, HeaderBytesAt = 12, CrcAt = 16, OwnAt = 24, OtherAt = 32, FirstUsableAt = 40, LastUsableAt = 48;

    private const int GuidAt = 56, EntriesAt = 72, EntryCountAt = 80, EntryBytesAt = 84, EntriesCrcAt = 88;

    /// <summary>Reads a header from its sector; nothing where the mark is missing or the header's own size is absurd.</summary>
    public static GptHeader? TryRead(ReadOnlySpan<byte> sector)
    {
        if (!sector.StartsWith(Mark)) return null;
        var size = BinaryPrimitives.ReadUInt32LittleEndian(sector[HeaderBytesAt..]);
        if (size < MinimumBytes || size > sector.Length) return null;
        var zeroed = sector[..(int)size].ToArray();
        zeroed.AsSpan(CrcAt, 4).Clear();
        return new GptHeader(
            (int)size,
            Long(sector, OwnAt),
            Long(sector, OtherAt),
            Long(sector, FirstUsableAt),
            Long(sector, LastUsableAt),
            new Guid(sector.Slice(GuidAt, 16)),
            Long(sector, EntriesAt),
            BinaryPrimitives.ReadUInt32LittleEndian(sector[EntryCountAt..]),
            BinaryPrimitives.ReadUInt32LittleEndian(sector[EntryBytesAt..]),
            BinaryPrimitives.ReadUInt32LittleEndian(sector[EntriesCrcAt..]),
            Crc32.HashToUInt32(zeroed) == BinaryPrimitives.ReadUInt32LittleEndian(sector[CrcAt..]));
    }

    /// <summary>A sector with this header, its checksum computed, rest zero.</summary>
    public byte[] ToSector(int sectorBytes)
    {
        var sector = new byte[sectorBytes];
        Mark.CopyTo(sector);
        BinaryPrimitives.WriteUInt32LittleEndian(sector.AsSpan(RevisionAt), 0x00010000);
        BinaryPrimitives.WriteUInt32LittleEndian(sector.AsSpan(HeaderBytesAt), (uint)HeaderBytes);
        BinaryPrimitives.WriteInt64LittleEndian(sector.AsSpan(OwnAt), OwnSector);
        BinaryPrimitives.WriteInt64LittleEndian(sector.AsSpan(OtherAt), OtherSector);
        BinaryPrimitives.WriteInt64LittleEndian(sector.AsSpan(FirstUsableAt), FirstUsableSector);
        BinaryPrimitives.WriteInt64LittleEndian(sector.AsSpan(LastUsableAt), LastUsableSector);
        DiskGuid.TryWriteBytes(sector.AsSpan(GuidAt));
        BinaryPrimitives.WriteInt64LittleEndian(sector.AsSpan(EntriesAt), EntriesSector);
        BinaryPrimitives.WriteUInt32LittleEndian(sector.AsSpan(EntryCountAt), EntryCount);
        BinaryPrimitives.WriteUInt32LittleEndian(sector.AsSpan(EntryBytesAt), EntryBytes);
        BinaryPrimitives.WriteUInt32LittleEndian(sector.AsSpan(EntriesCrcAt), EntriesCrc);
        BinaryPrimitives.WriteUInt32LittleEndian(sector.AsSpan(CrcAt), Crc32.HashToUInt32(sector.AsSpan(0, HeaderBytes)));
        return sector;
    }

    private static long Long(ReadOnlySpan<byte> sector, int at) => BinaryPrimitives.ReadInt64LittleEndian(sector[at..]);
}
