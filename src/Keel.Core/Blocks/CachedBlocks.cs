namespace Keel.Core.Blocks;

/// <summary>Keeps what was read, so that no byte of a walk is fetched twice; bounded, whatever the disk's size.</summary>
public sealed class CachedBlocks(IReadableBlocks source, int limitBlocks = 4096) : IReadableBlocks
{
    private const int BlockBytes = 4096;
    private readonly Dictionary<long, byte[]> blocks = [];
    private readonly Queue<long> age = new();

    public long LengthBytes => source.LengthBytes;

    public int SectorBytes => source.SectorBytes;

    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        if (buffer.Length > BlockBytes * 16)
        {
            source.Read(offsetBytes, buffer);                   // big transfers would only push the small ones out
            return;
        }

        while (buffer.Length > 0)
        {
            var within = (int)(offsetBytes % BlockBytes);
            var count = Math.Min(buffer.Length, BlockBytes - within);
            Block(offsetBytes / BlockBytes).AsSpan(within, count).CopyTo(buffer);
            buffer = buffer[count..];
            offsetBytes += count;
        }
    }

    private byte[] Block(long number)
    {
        if (blocks.TryGetValue(number, out var block)) return block;
        if (blocks.Count >= limitBlocks) blocks.Remove(age.Dequeue());
        var start = number * BlockBytes;
        block = source.ReadBytes(start, (int)Math.Min(BlockBytes, source.LengthBytes - start));
        blocks.Add(number, block);
        age.Enqueue(number);
        return block;
    }
}
