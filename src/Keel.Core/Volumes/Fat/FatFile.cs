using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.Fat;

/// <summary>The contents of a file on a FAT volume.</summary>
internal sealed class FatFile(FatSpace space, FatEntry entry, string path) : IReadableBlocks
{
    private readonly List<ByteRange> runs =
        space.Runs(space.Table.Chain(entry.FirstCluster).Take(space.ClustersFor(entry.SizeBytes)));

    public long LengthBytes => entry.SizeBytes;

    public int SectorBytes => space.Partition.SectorBytes;

    public void Read(long offsetBytes, Span<byte> buffer)
    {
        foreach (var part in Parts(offsetBytes, buffer.Length))
        {
            space.Partition.Read(part.Start, buffer[..(int)part.Length]);
            buffer = buffer[(int)part.Length..];
        }
    }

    /// <summary>Writes over a part of the file.</summary>
    public void Patch(long offsetBytes, ReadOnlySpan<byte> bytes)
    {
        foreach (var part in Parts(offsetBytes, bytes.Length))
        {
            space.Partition.Write(part.Start, bytes[..(int)part.Length]);
            bytes = bytes[(int)part.Length..];
        }
    }

    /// <summary>Where a part of the file lies on the volume.</summary>
    private List<ByteRange> Parts(long offsetBytes, int count)
    {
        this.CheckRange(offsetBytes, count);
        var parts = new List<ByteRange>();
        foreach (var run in runs)
        {
            if (count == 0) break;
            if (offsetBytes < run.Length)
            {
                var length = (int)Math.Min(count, run.Length - offsetBytes);
                parts.Add(new ByteRange(run.Start + offsetBytes, length));
                count -= length;
                offsetBytes = 0;
            }
            else
            {
                offsetBytes -= run.Length;
            }
        }

        return count == 0
            ? parts
            : throw new UnreadableException(
                $"{path} can't be read to its end.",
                "The chain of its clusters ends before its size does: the file system is damaged.",
                "Run 'keel diagnose' on the disk; the file wants to be recreated.");
    }
}
