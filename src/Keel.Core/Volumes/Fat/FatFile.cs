using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.Fat;

/// <summary>The contents of a file on a FAT volume.</summary>
internal sealed class FatFile(FatSpace space, FatEntry entry, string path) : IReadableBlocks
{
    private readonly List<ByteRange> runs = space.Runs(space.Table.Chain(entry.FirstCluster).Take(space.ClustersFor(entry.SizeBytes)));

    public long LengthBytes => entry.SizeBytes;

    public int SectorBytes => space.Partition.SectorBytes;

    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        foreach (var run in runs)
        {
            if (buffer.Length == 0) return;
            if (offsetBytes < run.Length)
            {
                var count = (int)Math.Min(buffer.Length, run.Length - offsetBytes);
                space.Partition.Read(run.Start + offsetBytes, buffer[..count]);
                buffer = buffer[count..];
                offsetBytes = 0;
            }
            else
            {
                offsetBytes -= run.Length;
            }
        }

        if (buffer.Length > 0)
            throw new UnreadableException($"{path} can't be read to its end.", "The chain of its clusters ends before its size does: the file system is damaged.", "Run 'keel diagnose' on the disk; the file wants to be recreated.");
    }
}
