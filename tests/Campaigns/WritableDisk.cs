using Keel.Core.Blocks;

namespace Keel.Campaigns;

/// <summary>A disk in memory that a repair can be written to; the disk below stays.</summary>
internal sealed class WritableDisk(SparseDisk below) : IWritableBlocks
{
    private readonly ChangedDisk disk = new(below);

    public long LengthBytes => disk.LengthBytes;

    public int SectorBytes => disk.SectorBytes;

    public void Read(long offsetBytes, Span<byte> buffer) => disk.Read(offsetBytes, buffer);

    public void Write(long offsetBytes, ReadOnlySpan<byte> data) => disk.Change(offsetBytes, data);

    public void Flush()
    {
    }
}
