using Keel.Core.Blocks;

namespace Keel.Core.Hives;

/// <summary>Hands out cells in bins, one after another, and keeps them in one growing buffer.</summary>
internal sealed class CellArena
{
    private const int BinUnitBytes = 4096, BinHeaderBytes = 32, CellHeaderBytes = 4, CellUnitBytes = 8;
    private byte[] buffer = new byte[64 * 1024];
    private int binEnd;
    private int next;

    /// <summary>Bytes of all bins.</summary>
    public int LengthBytes => binEnd;

    /// <summary>A new cell with room for that many bytes; gives its offset.</summary>
    public uint Allocate(int contentBytes)
    {
        var size = (contentBytes + CellHeaderBytes + CellUnitBytes - 1) / CellUnitBytes * CellUnitBytes;
        if (binEnd - next < size) OpenBin(size);
        var offset = next;
        buffer.Put(offset, -size);
        next += size;
        return (uint)offset;
    }

    /// <summary>The contents of a cell, to be filled.</summary>
    public Span<byte> Content(uint offset)
    {
        var size = -buffer.At<int>((int)offset);
        return buffer.AsSpan((int)offset + CellHeaderBytes, size - CellHeaderBytes);
    }

    /// <summary>A new cell with these contents.</summary>
    public uint Store(ReadOnlySpan<byte> content)
    {
        var offset = Allocate(content.Length);
        content.CopyTo(Content(offset));
        return offset;
    }

    /// <summary>All bins, the last one closed.</summary>
    public ReadOnlySpan<byte> Finish()
    {
        CloseBin();
        next = binEnd;
        return buffer.AsSpan(0, binEnd);
    }

    private void OpenBin(int cellBytes)
    {
        CloseBin();
        var start = binEnd;
        var size = (BinHeaderBytes + cellBytes + BinUnitBytes - 1) / BinUnitBytes * BinUnitBytes;
        binEnd += size;
        if (binEnd > buffer.Length) Array.Resize(ref buffer, Math.Max(binEnd, buffer.Length * 2));
        buffer.Put(start, new HiveBinRecord { Mark = HiveBinRecord.UsualMark, Offset = start, Size = size });
        next = start + BinHeaderBytes;
    }

    private void CloseBin()
    {
        if (next < binEnd) buffer.Put(next, binEnd - next);
    }
}
