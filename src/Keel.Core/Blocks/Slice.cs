namespace Keel.Core.Blocks;

/// <summary>A window on writable blocks, such as a partition.</summary>
public sealed class Slice(IWritableBlocks whole, ByteRange range) : IWritableBlocks
{
    /// <summary>Where the window lies in the whole.</summary>
    public ByteRange Range { get; } = new(range.Start, Math.Max(0, Math.Min(range.Length, whole.LengthBytes - range.Start)));

    /// <inheritdoc/>
    public long LengthBytes => Range.Length;

    /// <inheritdoc/>
    public int SectorBytes => whole.SectorBytes;

    /// <inheritdoc/>
    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        whole.Read(Range.Start + offsetBytes, buffer);
    }

    /// <inheritdoc/>
    public void Write(long offsetBytes, ReadOnlySpan<byte> data)
    {
        this.CheckRange(offsetBytes, data.Length);
        whole.Write(Range.Start + offsetBytes, data);
    }

    /// <inheritdoc/>
    public void Flush() => whole.Flush();
}
