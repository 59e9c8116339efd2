namespace Keel.Core.Blocks;

/// <summary>A disk, or a part of one, as bytes to be looked at.</summary>
public interface IReadableBlocks
{
    /// <summary>The size in bytes.</summary>
    long LengthBytes { get; }

    /// <summary>The logical sector size in bytes: 512 or 4096.</summary>
    int SectorBytes { get; }

    /// <summary>Fills the whole buffer from the offset in bytes.</summary>
    /// <exception cref="Errors.UnreadableException">The range goes past the end, or the device reports an error.</exception>
    void Read(long offsetBytes, Span<byte> buffer);
}
