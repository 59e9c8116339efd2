namespace Keel.Core.Blocks;

/// <summary>Bytes in memory seen as blocks: a small file read whole, a disk in a test.</summary>
public sealed class MemoryBlocks(byte[] bytes, int sectorBytes = 512) : IWritableBlocks
{
    /// <inheritdoc/>
    public long LengthBytes => bytes.Length;

    /// <inheritdoc/>
    public int SectorBytes => sectorBytes;

    /// <summary>The bytes themselves, not a copy.</summary>
    public byte[] Bytes => bytes;

    /// <inheritdoc/>
    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        bytes.AsSpan((int)offsetBytes, buffer.Length).CopyTo(buffer);
    }

    /// <inheritdoc/>
    public void Write(long offsetBytes, ReadOnlySpan<byte> data)
    {
        this.CheckRange(offsetBytes, data.Length);
        data.CopyTo(bytes.AsSpan((int)offsetBytes));
    }

    /// <inheritdoc/>
    public void Flush()
    {
    }
}
