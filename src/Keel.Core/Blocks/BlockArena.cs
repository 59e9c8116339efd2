namespace Keel.Core.Blocks;

/// <summary>
/// Gives out memory for many small blocks from a few large pieces, which the garbage collector leaves where they are.
/// </summary>
internal sealed class BlockArena
{
    private const int PieceBytes = 256 * 1024;
    private Memory<byte> rest;

    /// <summary>Memory that nobody else has, with unknown contents.</summary>
    /// <param name="length">In bytes, at most 256 KiB.</param>
    public Memory<byte> Take(int length)
    {
        if (rest.Length < length) rest = GC.AllocateUninitializedArray<byte>(PieceBytes);
        var taken = rest[..length];
        rest = rest[length..];
        return taken;
    }
}
