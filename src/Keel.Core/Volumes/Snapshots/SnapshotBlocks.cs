using Keel.Core.Blocks;

namespace Keel.Core.Volumes.Snapshots;

/// <summary>A volume as it was when a snapshot of it was made.</summary>
internal sealed class SnapshotBlocks(VolumeSnapshots snapshots, nint store, long lengthBytes, int sectorBytes) : IReadableBlocks
{
    public long LengthBytes => lengthBytes;

    public int SectorBytes => sectorBytes;

    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        snapshots.Read(store, offsetBytes, buffer);
    }
}
