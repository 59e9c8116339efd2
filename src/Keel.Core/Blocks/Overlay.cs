using System.Collections.Immutable;

namespace Keel.Core.Blocks;

/// <summary>A disk as it would be after a repair: reads fall through to the disk, writes stay here.</summary>
/// <remarks>A saved state shares its blocks with the overlay; a block is copied when it is written after that.</remarks>
/// <param name="disk">The disk below.</param>
/// <param name="spill">Makes room for changes that are more than the memory takes; null to keep all there.</param>
/// <param name="memoryBytes">How much of them is kept in memory.</param>
public sealed class Overlay(IReadableBlocks disk, Func<ISpillRoom>? spill = null, long memoryBytes = Overlay.MemoryBytes)
    : IWritableBlocks
{
    /// <summary>How much of what is changed is kept in memory, in bytes; the rest outside of it.</summary>
    public const long MemoryBytes = 96 * 1024 * 1024;

    internal const int BlockBytes = 4096;
    private const int CompareBytes = 512;
    private const int RunBlocks = DiskChanges.RangeLimitBytes / BlockBytes;
    private readonly OverlayRoom room = new(spill, memoryBytes);
    private ImmutableSortedDictionary<long, OverlayBlock> changed = ImmutableSortedDictionary<long, OverlayBlock>.Empty;
    private int generation;
    private DiskChanges? changes;

    /// <summary>The disk below, as it is.</summary>
    public IReadableBlocks Disk => disk;

    /// <inheritdoc/>
    public long LengthBytes => disk.LengthBytes;

    /// <inheritdoc/>
    public int SectorBytes => disk.SectorBytes;

    /// <summary>Told of every range that is about to change: whoever keeps something read from there forgets it.</summary>
    public Action<ByteRange>? Changing { get; set; }

    /// <inheritdoc/>
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
                block.Read(within, buffer[..count]);
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

    /// <inheritdoc/>
    public void Write(long offsetBytes, ReadOnlySpan<byte> data)
    {
        this.CheckRange(offsetBytes, data.Length);
        BeforeWrite?.Invoke();
        if (data.Length > 0) Tell(new ByteRange(offsetBytes, data.Length));
        while (data.Length > 0)
        {
            var number = offsetBytes / BlockBytes;
            var within = (int)(offsetBytes % BlockBytes);
            var count = Math.Min(data.Length, BlockBytes - within);
            Block(number, whole: count == BlockBytes).Write(within, data[..count]);
            data = data[count..];
            offsetBytes += count;
        }
    }

    /// <summary>Called before every write; what it throws keeps the write from happening.</summary>
    internal Action? BeforeWrite { get; set; }

    /// <summary>Nothing to do: what is changed has nowhere to go.</summary>
    public void Flush()
    {
    }

    /// <summary>What has changed so far, to come back to with <see cref="Restore"/>; later writes leave it as it is.</summary>
    public OverlayState Save()
    {
        generation++;
        return new OverlayState(changed);
    }

    /// <summary>Goes back to a saved state; whatever was written since is gone.</summary>
    public void Restore(OverlayState state)
    {
        foreach (var run in RunsThatDiffer(state)) Tell(run);
        generation++;
        changed = state.Blocks;
    }

    /// <summary>What differs from the disk now: it belongs to whoever asked, and later writes leave it as it is.</summary>
    public DiskChanges Changes()
    {
        if (changes is null)
        {
            var found = FindChanges();
            changes = new DiskChanges(LengthBytes, found, Save());
        }

        return changes;
    }

    private void Tell(ByteRange range)
    {
        changes = null;
        Changing?.Invoke(range);
    }

    /// <summary>The neighbouring blocks that are others in the other state.</summary>
    private List<ByteRange> RunsThatDiffer(OverlayState other)
    {
        var runs = new List<ByteRange>();
        var numbers = changed.Keys.Union(other.Blocks.Keys)
            .Where(number => changed.GetValueOrDefault(number) != other.Blocks.GetValueOrDefault(number));
        foreach (var number in numbers.Order()) Append(runs, new ByteRange(number * BlockBytes, BlockBytes));
        return runs;
    }

    private List<ChangedRange> FindChanges()
    {
        var ranges = new List<ChangedRange>();
        var run = new List<KeyValuePair<long, OverlayBlock>>();
        var (before, after) = (new byte[RunBlocks * BlockBytes], new byte[BlockBytes]);
        foreach (var block in changed)
        {
            if (run.Count == RunBlocks || (run.Count > 0 && run[^1].Key + 1 != block.Key))
            {
                Compare(run, before, after, ranges);
                run.Clear();
            }

            run.Add(block);
        }

        if (run.Count > 0) Compare(run, before, after, ranges);
        return ranges;
    }

    /// <summary>Compares neighbouring blocks with the disk, which is read in one piece.</summary>
    private void Compare(
        List<KeyValuePair<long, OverlayBlock>> run,
        byte[] runBuffer,
        byte[] blockBuffer,
        List<ChangedRange> ranges)
    {
        var start = run[0].Key * BlockBytes;
        var before = runBuffer.AsSpan(0, run.Sum(block => block.Value.Length));
        disk.Read(start, before);
        var different = new List<ByteRange>();
        foreach (var (number, block) in run)
        {
            var after = blockBuffer.AsSpan(0, block.Length);
            block.Read(0, after);
            for (var at = 0; at < after.Length; at += CompareBytes)
            {
                var count = Math.Min(CompareBytes, after.Length - at);
                var place = (number * BlockBytes) + at;
                if (!before.Slice((int)(place - start), count).SequenceEqual(after.Slice(at, count)))
                    Append(different, new ByteRange(place, count));
            }
        }

        foreach (var range in different)
        {
            ranges.Add(
                new ChangedRange(
                    range.Start,
                    (int)range.Length,
                    Checksum.Of(before.Slice((int)(range.Start - start), (int)range.Length))));
        }
    }

    private static void Append(List<ByteRange> ranges, ByteRange next)
    {
        if (ranges.Count > 0 && ranges[^1].End == next.Start)
            ranges[^1] = ranges[^1] with { Length = ranges[^1].Length + next.Length };
        else
            ranges.Add(next);
    }

    /// <summary>
    /// A block that may be written, with what stood in it; where all of it is about to be written, with anything.
    /// </summary>
    private OverlayBlock Block(long number, bool whole)
    {
        if (changed.TryGetValue(number, out var block) && block.Generation == generation) return block;
        var start = number * BlockBytes;
        var fresh = room.Take((int)Math.Min(BlockBytes, LengthBytes - start), generation);
        if (!whole)
        {
            Span<byte> old = stackalloc byte[BlockBytes];
            old = old[..fresh.Length];
            if (block is not null) block.Read(0, old);
            else disk.Read(start, old);
            fresh.Write(0, old);
        }

        changed = changed.SetItem(number, fresh);
        return fresh;
    }
}
