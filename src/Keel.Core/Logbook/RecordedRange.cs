using Keel.Core.Blocks;

namespace Keel.Core.Logbook;

/// <summary>A range of a disk that a repair wrote, in bytes, with the checksums of what was and what is there.</summary>
public sealed record RecordedRange(long Start, int Length, string Before, string After)
{
    /// <summary>Where on the disk it lies, in bytes.</summary>
    public ByteRange Range => new(Start, Length);

    internal Checksum ChecksumBefore => Checksum.TryParse(Before) ?? default;

    internal Checksum ChecksumAfter => Checksum.TryParse(After) ?? default;
}
