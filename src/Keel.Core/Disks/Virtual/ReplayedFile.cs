using Keel.Core.Blocks;

namespace Keel.Core.Disks.Virtual;

/// <summary>A VHDX file as it is once its log is replayed, without a byte of it being written.</summary>
internal sealed class ReplayedFile(IReadableBlocks file, IReadOnlyList<VhdxLogWrite> writes, long lengthBytes) : IReadableBlocks
{
    /// <inheritdoc/>
    public long LengthBytes => lengthBytes;

    /// <inheritdoc/>
    public int SectorBytes => file.SectorBytes;

    /// <inheritdoc/>
    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        var there = (int)Math.Clamp(file.LengthBytes - offsetBytes, 0, buffer.Length);
        file.Read(offsetBytes, buffer[..there]);
        buffer[there..].Clear();
        foreach (var write in writes)
        {
            var from = Math.Max(write.Range.Start, offsetBytes);
            var to = Math.Min(write.Range.End, offsetBytes + buffer.Length);
            if (from >= to) continue;
            var part = buffer[(int)(from - offsetBytes)..(int)(to - offsetBytes)];
            if (write.Bytes is null) part.Clear();
            else write.Bytes.AsSpan((int)(from - write.Range.Start), part.Length).CopyTo(part);
        }
    }
}
