namespace Keel.Core.Blocks;

/// <summary>A run of bytes; both numbers in bytes, the end excluded.</summary>
public readonly record struct ByteRange(long Start, long Length)
{
    /// <summary>The first byte after the range.</summary>
    public long End => Start + Length;

    /// <summary>Whether the byte at that offset is in it.</summary>
    public bool Contains(long offset) => offset >= Start && offset < End;

    /// <summary>Whether they share a byte.</summary>
    public bool Overlaps(ByteRange other) => Start < other.End && other.Start < End;

    /// <summary>The first and last byte, in hexadecimal.</summary>
    public override string ToString() => $"{Start:x}-{End - 1:x}";
}
