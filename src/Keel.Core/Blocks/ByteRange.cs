namespace Keel.Core.Blocks;

/// <summary>A run of bytes; both numbers in bytes, the end excluded.</summary>
public readonly record struct ByteRange(long Start, long Length)
{
    /// <summary>The first byte after the range.</summary>
    public long End => Start + Length;

    public bool Contains(long offset) => offset >= Start && offset < End;

    public bool Overlaps(ByteRange other) => Start < other.End && other.Start < End;

    public override string ToString() => $"{Start:x}-{End - 1:x}";
}
