namespace Keel.Core.Blocks;

/// <summary>Room outside of the memory, for what an overlay changes.</summary>
public interface ISpillRoom
{
    /// <summary>A place that nobody else has, in bytes from the start of the room.</summary>
    /// <param name="length">In bytes.</param>
    long Take(int length);

    /// <summary>Fills the whole buffer from a place that was taken.</summary>
    /// <exception cref="Errors.RefusedException">It can't be read.</exception>
    void Read(long offsetBytes, Span<byte> buffer);

    /// <summary>Writes to a place that was taken.</summary>
    /// <exception cref="Errors.RefusedException">There is no room.</exception>
    void Write(long offsetBytes, ReadOnlySpan<byte> bytes);
}
