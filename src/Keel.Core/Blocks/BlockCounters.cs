namespace Keel.Core.Blocks;

/// <summary>What was asked of a device since it was opened.</summary>
public sealed class BlockCounters
{
    public long Reads { get; private set; }

    public long BytesRead { get; private set; }

    public long Writes { get; private set; }

    public long BytesWritten { get; private set; }

    public long Flushes { get; private set; }

    internal void CountRead(int bytes)
    {
        Reads++;
        BytesRead += bytes;
    }

    internal void CountWrite(int bytes)
    {
        Writes++;
        BytesWritten += bytes;
    }

    internal void CountFlush() => Flushes++;
}
