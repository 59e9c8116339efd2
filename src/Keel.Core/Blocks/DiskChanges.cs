namespace Keel.Core.Blocks;

/// <summary>
/// What a repair changes on one disk: the ranges, what was read there, and what will stand there. It never changes.
/// </summary>
public sealed class DiskChanges
{
    /// <summary>A longer change is cut into ranges of this length.</summary>
    public const int RangeLimitBytes = 1024 * 1024;

    private readonly OverlayState after;

    internal DiskChanges(long lengthBytes, IReadOnlyList<ChangedRange> ranges, OverlayState after)
    {
        LengthBytes = lengthBytes;
        Ranges = ranges;
        this.after = after;
    }

    /// <summary>The size of the disk, in bytes.</summary>
    public long LengthBytes { get; }

    /// <summary>In order of place, none touching another twice; units of 512 bytes.</summary>
    public IReadOnlyList<ChangedRange> Ranges { get; }

    /// <summary>How much is changed, in bytes.</summary>
    public long ChangedBytes => Ranges.Sum(range => (long)range.Length);

    /// <summary>Whether the disk is changed at all.</summary>
    public bool Any => Ranges.Count > 0;

    /// <summary>What will stand in a range.</summary>
    public byte[] After(ChangedRange range)
    {
        var bytes = new byte[range.Length];
        CopyAfter(range, bytes);
        return bytes;
    }

    /// <summary>The same, into memory that is there already and as long as the range.</summary>
    internal void CopyAfter(ChangedRange range, Span<byte> bytes)
    {
        for (var done = 0; done < bytes.Length;)
        {
            var place = range.Start + done;
            var within = (int)(place % Overlay.BlockBytes);
            var count = Math.Min(bytes.Length - done, Overlay.BlockBytes - within);
            after.Blocks[place / Overlay.BlockBytes].Read(within, bytes.Slice(done, count));
            done += count;
        }
    }
}
