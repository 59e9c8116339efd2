namespace Keel.Core.Blocks;

/// <summary>A disk as it would be after a repair: reads fall through to the disk, writes stay in memory.</summary>
public sealed class Overlay(IReadableBlocks disk) : IWritableBlocks
{
    private const int BlockBytes = 4096;
    private const int CompareBytes = 512;
    private const int RunBlocks = 256;
    private const long RegionBytes = 1024 * 1024;
    private readonly Dictionary<long, long> regions = [];
    private SortedDictionary<long, byte[]> changed = [];
    private (long Version, IReadOnlyList<ByteRange> Ranges) changes = (-1, []);

    /// <summary>The disk below, as it is.</summary>
    public IReadableBlocks Disk => disk;

    public long LengthBytes => disk.LengthBytes;

    public int SectorBytes => disk.SectorBytes;

    /// <summary>Grows with every write; whoever keeps something read from the overlay compares it.</summary>
    public long Version { get; private set; }

    public void Read(long offsetBytes, Span<byte> buffer)
    {
        this.CheckRange(offsetBytes, buffer.Length);
        if (changed.Count == 0)
        {
            disk.Read(offsetBytes, buffer);
            return;
        }

        while (buffer.Length > 0)
        {
            var number = offsetBytes / BlockBytes;
            var within = (int)(offsetBytes % BlockBytes);
            var count = Math.Min(buffer.Length, BlockBytes - within);
            if (changed.TryGetValue(number, out var block))
            {
                block.AsSpan(within, count).CopyTo(buffer);
            }
            else
            {
                while (count < buffer.Length && !changed.ContainsKey((offsetBytes + count) / BlockBytes))
                    count = Math.Min(buffer.Length, count + BlockBytes);
                disk.Read(offsetBytes, buffer[..count]);
            }

            buffer = buffer[count..];
            offsetBytes += count;
        }
    }

    public void Write(long offsetBytes, ReadOnlySpan<byte> data)
    {
        this.CheckRange(offsetBytes, data.Length);
        Version++;
        for (var region = offsetBytes / RegionBytes; region <= (offsetBytes + data.Length - 1) / RegionBytes; region++) regions[region] = Version;
        while (data.Length > 0)
        {
            var number = offsetBytes / BlockBytes;
            var within = (int)(offsetBytes % BlockBytes);
            var count = Math.Min(data.Length, BlockBytes - within);
            data[..count].CopyTo(Block(number, whole: count == BlockBytes).AsSpan(within));
            data = data[count..];
            offsetBytes += count;
        }
    }

    /// <summary>The version that a range had when it was last written: what was read from it then is still what is there.</summary>
    public long VersionOf(ByteRange range) => regions.Where(region => region.Key >= range.Start / RegionBytes && region.Key <= (range.End - 1) / RegionBytes).Select(region => region.Value).DefaultIfEmpty(0).Max();

    /// <summary>Nothing to do: what is in memory has nowhere to go.</summary>
    public void Flush()
    {
    }

    /// <summary>What has changed so far, to come back to with <see cref="Restore"/>.</summary>
    public OverlayState Save() => new([.. changed.Select(block => KeyValuePair.Create(block.Key, block.Value.ToArray()))]);

    /// <summary>Goes back to a saved state; whatever was written since is gone.</summary>
    public void Restore(OverlayState state)
    {
        changed = new SortedDictionary<long, byte[]>(state.Blocks.ToDictionary(block => block.Key, block => block.Value.ToArray()));
        Version++;
        foreach (var region in regions.Keys) regions[region] = Version;
    }

    /// <summary>The ranges whose bytes really differ from the disk, in order, in units of 512 bytes.</summary>
    public IReadOnlyList<ByteRange> Changes()
    {
        if (changes.Version != Version) changes = (Version, FindChanges());
        return changes.Ranges;
    }

    private List<ByteRange> FindChanges()
    {
        var ranges = new List<ByteRange>();
        var run = new List<KeyValuePair<long, byte[]>>();
        var before = new byte[RunBlocks * BlockBytes];
        foreach (var block in changed)
        {
            if (run.Count == RunBlocks || (run.Count > 0 && run[^1].Key + 1 != block.Key))
            {
                Compare(run, before, ranges);
                run.Clear();
            }

            run.Add(block);
        }

        if (run.Count > 0) Compare(run, before, ranges);
        return ranges;
    }

    /// <summary>Compares neighbouring blocks with the disk, which is read in one piece.</summary>
    private void Compare(List<KeyValuePair<long, byte[]>> run, byte[] buffer, List<ByteRange> ranges)
    {
        var start = run[0].Key * BlockBytes;
        var before = buffer.AsSpan(0, run.Sum(block => block.Value.Length));
        disk.Read(start, before);
        foreach (var (number, block) in run)
        {
            for (var at = 0; at < block.Length; at += CompareBytes)
            {
                var count = Math.Min(CompareBytes, block.Length - at);
                var place = (number * BlockBytes) + at;
                if (!before.Slice((int)(place - start), count).SequenceEqual(block.AsSpan(at, count))) Append(ranges, new ByteRange(place, count));
            }
        }
    }

    private static void Append(List<ByteRange> ranges, ByteRange next)
    {
        if (ranges.Count > 0 && ranges[^1].End == next.Start)
            ranges[^1] = ranges[^1] with { Length = ranges[^1].Length + next.Length };
        else
            ranges.Add(next);
    }

    private byte[] Block(long number, bool whole)
    {
        if (changed.TryGetValue(number, out var block)) return block;
        var start = number * BlockBytes;
        var length = (int)Math.Min(BlockBytes, LengthBytes - start);
        block = whole ? new byte[length] : disk.ReadBytes(start, length);
        changed.Add(number, block);
        return block;
    }
}
