using Keel.Core.Errors;

namespace Keel.Core.Blocks;

/// <summary>Keeps what was read, so that no byte of a walk is fetched twice; bounded, whatever the disk's size.</summary>
public sealed class CachedBlocks(IReadableBlocks source, int limitBlocks = 4096) : IReadableBlocks
{
    private const int BlockBytes = 4096;
    private readonly Dictionary<long, byte[]> blocks = [];
    private readonly Queue<long> age = new();

    /// <inheritdoc/>
    public long LengthBytes => source.LengthBytes;

    /// <inheritdoc/>
    public int SectorBytes => source.SectorBytes;

    /// <inheritdoc/>
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
            if (Block(offsetBytes / BlockBytes) is { } block)
                block.AsSpan(within, count).CopyTo(buffer);
            else
                source.Read(offsetBytes, buffer[..count]);      // a part of the block can't be read; perhaps not this one
            buffer = buffer[count..];
            offsetBytes += count;
        }
    }

    /// <summary>Forgets a range that was written in the meantime.</summary>
    internal void Forget(long offsetBytes, int count)
    {
        for (var number = offsetBytes / BlockBytes; number * BlockBytes < offsetBytes + count; number++) blocks.Remove(number);
    }

    private byte[]? Block(long number)
    {
        if (blocks.TryGetValue(number, out var block)) return block;
        var start = number * BlockBytes;
        try
        {
            block = source.ReadBytes(start, (int)Math.Min(BlockBytes, source.LengthBytes - start));
        }
        catch (ReadFailedException)
        {
            return null;
        }

        if (blocks.Count >= limitBlocks) blocks.Remove(age.Dequeue());
        blocks.Add(number, block);
        age.Enqueue(number);
        return block;
    }
}
