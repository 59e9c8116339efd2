namespace Keel.Core.Blocks;

/// <summary>A changed block of an overlay, in memory or outside of it.</summary>
/// <remarks>
/// Two blocks are the same only where they are one object: its bytes never change once a saved state shares it.
/// </remarks>
internal sealed class OverlayBlock
{
    private readonly Memory<byte> memory;
    private readonly ISpillRoom? outside;
    private readonly long place;

    public OverlayBlock(Memory<byte> memory, int generation)
    {
        this.memory = memory;
        Length = memory.Length;
        Generation = generation;
    }

    public OverlayBlock(ISpillRoom outside, long place, int length, int generation)
    {
        this.outside = outside;
        this.place = place;
        Length = length;
        Generation = generation;
    }

    /// <summary>In bytes: 4096, fewer at the end of a disk that is no multiple of them.</summary>
    public int Length { get; }

    /// <summary>
    /// How often the overlay had been saved when it was made; an older one is shared with a saved state.
    /// </summary>
    public int Generation { get; }

    public void Read(int within, Span<byte> buffer)
    {
        if (outside is null) memory.Span.Slice(within, buffer.Length).CopyTo(buffer);
        else outside.Read(place + within, buffer);
    }

    public void Write(int within, ReadOnlySpan<byte> bytes)
    {
        if (outside is null) bytes.CopyTo(memory.Span[within..]);
        else outside.Write(place + within, bytes);
    }
}
