using System.Buffers.Binary;
using Keel.Core.Blocks;

namespace Keel.Core.Hives;

/// <summary>
/// The frame of a hive: its bins follow one another, and the cells in each fill it (regf specification). Windows checks all of it
/// when it loads a hive, also what nothing leads to.
/// </summary>
internal static class HiveFrame
{
    private const int BinHeaderBytes = 32, PageBytes = 4096, LeastCellBytes = 8;

    /// <summary>Reads a hive once from its beginning to its end; what is broken first, in words, or null.</summary>
    /// <exception cref="Errors.UnreadableException">It can't be read.</exception>
    public static string? FirstBroken(IReadableBlocks bytes, HiveHeader header)
    {
        var end = header.BinsBytes;
        var head = new byte[BinHeaderBytes];
        for (uint at = 0; at < end;)
        {
            if (HiveHeader.Size + (long)at + BinHeaderBytes > bytes.LengthBytes) return $"The bin at {at:x} is beyond the file.";
            bytes.Read(HiveHeader.Size + (long)at, head);
            var size = BinaryPrimitives.ReadUInt32LittleEndian(head.AsSpan(8));
            if (!head.AsSpan().StartsWith("hbin"u8) || BinaryPrimitives.ReadUInt32LittleEndian(head.AsSpan(4)) != at)
                return $"No bin stands at {at:x}, where one should.";
            if (size < PageBytes || size % PageBytes != 0 || size > end - at)
                return $"The bin at {at:x} says an impossible size.";
            if (HiveHeader.Size + (long)at + size > bytes.LengthBytes) return $"The bin at {at:x} ends beyond the file.";
            if (BrokenCell(bytes.ReadBytes(HiveHeader.Size + (long)at, (int)size), at) is { } broken) return broken;
            at += size;
        }

        return null;
    }

    private static string? BrokenCell(ReadOnlySpan<byte> bin, uint start)
    {
        for (var at = BinHeaderBytes; at < bin.Length;)
        {
            var size = Math.Abs((long)BinaryPrimitives.ReadInt32LittleEndian(bin[at..]));
            if (size < LeastCellBytes || size % LeastCellBytes != 0 || size > bin.Length - at)
                return $"The cell at {start + at:x} says an impossible size.";
            at += (int)size;
        }

        return null;
    }
}
