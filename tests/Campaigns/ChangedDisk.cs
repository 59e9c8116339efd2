using Keel.Core.Blocks;

namespace Keel.Campaigns;

/// <summary>A disk with some places changed; the disk below stays.</summary>
internal sealed class ChangedDisk(SparseDisk below) : IReadableBlocks
{
    private readonly Dictionary<long, byte[]> changed = [];

    public long LengthBytes => below.LengthBytes;

    public int SectorBytes => below.SectorBytes;

    public void Change(long offsetBytes, ReadOnlySpan<byte> bytes)
    {
        while (bytes.Length > 0 && offsetBytes >= 0 && offsetBytes < LengthBytes)
        {
            var number = offsetBytes / SparseDisk.BlockBytes;
            if (!changed.TryGetValue(number, out var block)) changed.Add(number, block = below.Block(number).ToArray());
            var within = (int)(offsetBytes % SparseDisk.BlockBytes);
            var count = Math.Min(bytes.Length, SparseDisk.BlockBytes - within);
            bytes[..count].CopyTo(block.AsSpan(within));
            bytes = bytes[count..];
            offsetBytes += count;
        }
    }

    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        while (buffer.Length > 0)
        {
            var within = (int)(offsetBytes % SparseDisk.BlockBytes);
            var count = Math.Min(buffer.Length, SparseDisk.BlockBytes - within);
            var number = offsetBytes / SparseDisk.BlockBytes;
            ReadOnlySpan<byte> source = changed.TryGetValue(number, out var block) ? block : below.Block(number);
            source.Slice(within, count).CopyTo(buffer);
            buffer = buffer[count..];
            offsetBytes += count;
        }
    }
}
