namespace Keel.Core.Blocks;

/// <summary>A changed block of an overlay.</summary>
/// <param name="Memory">Its bytes: 4096, fewer at the end of a disk that is no multiple of them.</param>
/// <param name="Generation">How often the overlay had been saved when it was made; an older one is shared with a saved
///     state.</param>
internal sealed record OverlayBlock(Memory<byte> Memory, int Generation)
{
    public Span<byte> Bytes => Memory.Span;
}
