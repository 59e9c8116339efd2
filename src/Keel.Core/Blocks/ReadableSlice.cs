namespace Keel.Core.Blocks;

/// <summary>What follows a place, to be looked at as if it began there.</summary>
/// <param name="whole">All of it.</param>
/// <param name="startBytes">The place.</param>
internal sealed class ReadableSlice(IReadableBlocks whole, long startBytes) : IReadableBlocks
{
    /// <inheritdoc/>
    public long LengthBytes => Math.Max(0, whole.LengthBytes - startBytes);

    /// <inheritdoc/>
    public int SectorBytes => whole.SectorBytes;

    /// <inheritdoc/>
    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        whole.Read(startBytes + offsetBytes, buffer);
    }
}
