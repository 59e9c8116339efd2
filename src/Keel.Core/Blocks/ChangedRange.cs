namespace Keel.Core.Blocks;

/// <summary>A range of a disk that a repair changes.</summary>
/// <param name="Start">In bytes from the start of the disk.</param>
/// <param name="Length">In bytes; at most <see cref="DiskChanges.RangeLimitBytes"/>.</param>
/// <param name="ChecksumBefore">Of what was read there when the repair was planned.</param>
public sealed record ChangedRange(long Start, int Length, Checksum ChecksumBefore)
{
    /// <summary>Where on the disk it lies, in bytes.</summary>
    public ByteRange Range => new(Start, Length);
}
