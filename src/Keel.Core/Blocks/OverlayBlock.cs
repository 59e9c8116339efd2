namespace Keel.Core.Blocks;

/// <summary>A changed block of an overlay.</summary>
/// <param name="Generation">How often the overlay had been saved when it was made; an older one is shared with a saved state.</param>
internal sealed record OverlayBlock(byte[] Bytes, int Generation);
