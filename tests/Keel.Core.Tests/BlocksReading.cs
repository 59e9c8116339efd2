using Keel.Core.Blocks;

namespace Keel.Core.Tests;

/// <summary>Reading the whole of something small.</summary>
internal static class BlocksReading
{
    /// <summary>Its bytes, at most so many.</summary>
    public static byte[] ReadBytesOf(this IReadableBlocks blocks, int limit) =>
        blocks.ReadBytes(0, (int)Math.Min(limit, blocks.LengthBytes));
}
