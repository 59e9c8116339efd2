namespace Keel.Core.Blocks;

/// <summary>
/// Where an overlay keeps its changed blocks: in memory, in a few large pieces that the garbage collector leaves where they are;
/// and beyond a limit outside of it, so that a repair may write more than the memory holds.
/// </summary>
/// <param name="spill">Makes the room outside of the memory, once it is needed; null to keep everything in memory.</param>
/// <param name="memoryBytes">How much is kept in memory.</param>
internal sealed class OverlayRoom(Func<ISpillRoom>? spill, long memoryBytes)
{
    private const int PieceBytes = 256 * 1024;
    private long taken;
    private Memory<byte> rest;
    private ISpillRoom? outside;

    /// <summary>Room for a block, with unknown contents.</summary>
    /// <param name="length">In bytes, at most 256 KiB.</param>
    /// <param name="generation">See <see cref="OverlayBlock.Generation"/>.</param>
    /// <exception cref="Errors.RefusedException">There is no room outside.</exception>
    public OverlayBlock Take(int length, int generation)
    {
        if (spill is not null && taken + length > memoryBytes)
        {
            outside ??= spill();
            return new OverlayBlock(outside, outside.Take(length), length, generation);
        }

        taken += length;
        if (rest.Length < length) rest = GC.AllocateUninitializedArray<byte>(PieceBytes);
        var block = new OverlayBlock(rest[..length], generation);
        rest = rest[length..];
        return block;
    }
}
