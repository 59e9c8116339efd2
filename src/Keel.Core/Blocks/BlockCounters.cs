namespace Keel.Core.Blocks;

/// <summary>What was asked of a device since it was opened.</summary>
public sealed class BlockCounters
{
    /// <summary>How many reads there were.</summary>
    public long Reads { get; private set; }

    /// <summary>How many bytes they gave, in all.</summary>
    public long BytesRead { get; private set; }

    /// <summary>How many writes there were.</summary>
    public long Writes { get; private set; }

    /// <summary>How many bytes they took, in all.</summary>
    public long BytesWritten { get; private set; }

    /// <summary>How often what was written was forced onto the disk.</summary>
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
