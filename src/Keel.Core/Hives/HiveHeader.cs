using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using Keel.Core.Blocks;

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

    private const int CheckedBytes = 508;

    /// <summary>Whether the last write to the hive came to its end.</summary>
    public bool IsClean => PrimarySequence == SecondarySequence && ChecksumMatches;

    /// <summary>Reads the base block; nothing where the mark is missing.</summary>
    public static HiveHeader? TryRead(ReadOnlySpan<byte> block)
    {
        if (block.Length < Unsafe.SizeOf<HiveHeaderRecord>() || !block.StartsWith(Mark)) return null;
        var record = block.At<HiveHeaderRecord>(0);
        return new HiveHeader(
            record.PrimarySequence,
            record.SecondarySequence,
            record.LastWritten,
            record.Major,
            record.Minor,
            record.RootCell,
            record.BinsBytes,
            Checksum(block) == record.Checksum);
    }

    /// <summary>Writes the base block with its checksum.</summary>
    public void Write(Span<byte> block)
    {
        var record = new HiveHeaderRecord
        {
            Mark = BitConverter.ToUInt32(Mark),
            PrimarySequence = PrimarySequence,
            SecondarySequence = SecondarySequence,
            LastWritten = LastWritten,
            Major = Major,
            Minor = Minor,
            Format = 1,
            RootCell = RootCell,
            BinsBytes = BinsBytes,
            Clustering = 1
        };
        block[..Size].Clear();
        block.Put(0, record);
        record.Checksum = Checksum(block);
        block.Put(0, record);
    }

    /// <summary>Exclusive-or of the first 127 words, never 0 and never all ones.</summary>
    internal static uint Checksum(ReadOnlySpan<byte> block)
    {
        uint sum = 0;
        foreach (var word in MemoryMarshal.Cast<byte, uint>(block[..CheckedBytes])) sum ^= word;
        return sum switch { 0 => 1, uint.MaxValue => uint.MaxValue - 1, _ => sum };
    }
}
