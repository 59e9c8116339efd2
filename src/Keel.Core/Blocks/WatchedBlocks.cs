using Keel.Core.Errors;

namespace Keel.Core.Blocks;

/// <summary>Passes reads on, and remembers where the disk failed.</summary>
public sealed class WatchedBlocks(IReadableBlocks source) : IReadableBlocks
{
    public long LengthBytes => source.LengthBytes;

    public int SectorBytes => source.SectorBytes;

    public ReadErrors Errors { get; } = new();

    public void Read(long offsetBytes, Span<byte> buffer)
    {
        try
        {
            source.Read(offsetBytes, buffer);
        }
        catch (ReadFailedException e)
        {
            Errors.Add(e.Sectors);
            throw;
        }
    }
}
