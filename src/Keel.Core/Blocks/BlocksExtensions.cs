using Keel.Core.Errors;

namespace Keel.Core.Blocks;

/// <summary>Small helpers over blocks.</summary>
public static class BlocksExtensions
{
    /// <summary>Reads a range into a new array. The caller has bounded the length.</summary>
    public static byte[] ReadBytes(this IReadableBlocks blocks, long offsetBytes, int count)
    {
        var buffer = new byte[count];
        blocks.Read(offsetBytes, buffer);
        return buffer;
    }

    /// <summary>Reads a range, or nothing where it goes past the end.</summary>
    /// <exception cref="ReadFailedException">The disk reports an error: what stands there is not known.</exception>
    public static byte[]? TryRead(this IReadableBlocks blocks, long offsetBytes, int count) =>
        offsetBytes < 0 || count < 0 || count > blocks.LengthBytes || offsetBytes > blocks.LengthBytes - count
            ? null
            : blocks.ReadBytes(offsetBytes, count);

    /// <summary>Reads a range, or nothing where it goes past the end or the disk does not give it.</summary>
    public static byte[]? TryReadAnyway(this IReadableBlocks blocks, long offsetBytes, int count)
    {
        try
        {
            return blocks.TryRead(offsetBytes, count);
        }
        catch (KeelException)
        {
            return null;
        }
    }

    /// <summary>Refuses a range that is not inside the blocks.</summary>
    public static void CheckRange(this IReadableBlocks blocks, long offsetBytes, int count)
    {
        if (offsetBytes < 0 || count < 0 || count > blocks.LengthBytes || offsetBytes > blocks.LengthBytes - count)
        {
            throw new UnreadableException(
                "A place beyond the end of the disk was asked for.",
                $"Offset {offsetBytes}, {count} bytes, on {blocks.LengthBytes} bytes.",
                "The disk's structures are damaged or the image is cut short; compare its size with the original's.");
        }
    }
}
