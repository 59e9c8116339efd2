namespace Keel.Core.Blocks;

/// <summary>Bytes that can be changed: an overlay everywhere, the real disk only inside a commit.</summary>
public interface IWritableBlocks : IReadableBlocks
{
    /// <summary>Writes the whole buffer at the offset in bytes.</summary>
    /// <exception cref="Errors.UnreadableException">The range goes past the end, or the device reports an error.</exception>
    void Write(long offsetBytes, ReadOnlySpan<byte> data);

    /// <summary>Reads what has reached stable storage, after a flush; a disk asks the device, not the kernel's memory.</summary>
    /// <exception cref="Errors.UnreadableException">The range goes past the end, or the device reports an error.</exception>
    void ReadBack(long offsetBytes, Span<byte> buffer) => Read(offsetBytes, buffer);

    /// <summary>Returns when everything written has reached stable storage.</summary>
    void Flush();
}
