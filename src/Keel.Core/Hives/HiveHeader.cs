using System.Buffers.Binary;

namespace Keel.Core.Hives;

/// <summary>The base block of a registry hive, the first 4096 bytes of the file.</summary>
/// <param name="PrimarySequence">Raised before a write.</param>
/// <param name="SecondarySequence">Raised after it; a difference means that a write was cut off.</param>
/// <param name="LastWritten">When the hive was written last.</param>
/// <param name="Major">The version of the format, 1.</param>
/// <param name="Minor">The version of the format, 3 to 6.</param>
/// <param name="RootCell">Offset of the root key's cell, in bytes from the end of the base block.</param>
/// <param name="BinsBytes">Bytes of all bins after the base block.</param>
/// <param name="ChecksumMatches">Whether the checksum of the base block fits.</param>
public sealed record HiveHeader(
    uint PrimarySequence,
    uint SecondarySequence,
    long LastWritten,
    uint Major,
    uint Minor,
    uint RootCell,
    uint BinsBytes,
    bool ChecksumMatches)
{
    /// <summary>The size of the base block, in bytes.</summary>
    public const int Size = 4096;

    /// <summary>How a base block begins.</summary>
    public static ReadOnlySpan<byte> Mark => "regf"u8;

    private const int PrimaryAt = 4, SecondaryAt = 8, WrittenAt = 0xC, MajorAt = 0x14, MinorAt = 0x18, FormatAt = 0x20;
    private const int RootAt = 0x24, BinsAt = 0x28, ClusterAt = 0x2C, ChecksumAt = 0x1FC;

    /// <summary>Whether the last write to the hive came to its end.</summary>
    public bool IsClean => PrimarySequence == SecondarySequence && ChecksumMatches;

    /// <summary>Reads the base block; nothing where the mark is missing.</summary>
    public static HiveHeader? TryRead(ReadOnlySpan<byte> block)
    {
        if (block.Length < ChecksumAt + sizeof(uint) || !block.StartsWith(Mark)) return null;
        return new HiveHeader(
            Number(block, PrimaryAt),
            Number(block, SecondaryAt),
            BinaryPrimitives.ReadInt64LittleEndian(block[WrittenAt..]),
            Number(block, MajorAt),
            Number(block, MinorAt),
            Number(block, RootAt),
            Number(block, BinsAt),
            Checksum(block) == Number(block, ChecksumAt));
    }

    /// <summary>Writes the base block with its checksum.</summary>
    public void Write(Span<byte> block)
    {
        block[..Size].Clear();
        Mark.CopyTo(block);
        BinaryPrimitives.WriteUInt32LittleEndian(block[PrimaryAt..], PrimarySequence);
        BinaryPrimitives.WriteUInt32LittleEndian(block[SecondaryAt..], SecondarySequence);
        BinaryPrimitives.WriteInt64LittleEndian(block[WrittenAt..], LastWritten);
        BinaryPrimitives.WriteUInt32LittleEndian(block[MajorAt..], Major);
        BinaryPrimitives.WriteUInt32LittleEndian(block[MinorAt..], Minor);
        BinaryPrimitives.WriteUInt32LittleEndian(block[FormatAt..], 1);
        BinaryPrimitives.WriteUInt32LittleEndian(block[RootAt..], RootCell);
        BinaryPrimitives.WriteUInt32LittleEndian(block[BinsAt..], BinsBytes);
        BinaryPrimitives.WriteUInt32LittleEndian(block[ClusterAt..], 1);
        BinaryPrimitives.WriteUInt32LittleEndian(block[ChecksumAt..], Checksum(block));
    }

    /// <summary>Exclusive-or of the first 127 words, never 0 and never all ones.</summary>
    internal static uint Checksum(ReadOnlySpan<byte> block)
    {
        uint sum = 0;
        for (var at = 0; at < ChecksumAt; at += sizeof(uint)) sum ^= Number(block, at);
        return sum switch { 0 => 1, uint.MaxValue => uint.MaxValue - 1, _ => sum };
    }

    private static uint Number(ReadOnlySpan<byte> block, int at) => BinaryPrimitives.ReadUInt32LittleEndian(block[at..]);
}
