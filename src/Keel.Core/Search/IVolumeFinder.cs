using Keel.Core.Blocks;

namespace Keel.Core.Search;

/// <summary>Knows a kind of volume by single sectors of it.</summary>
internal interface IVolumeFinder
{
    /// <summary>Adds the volumes that a sector may belong to, where the disk bears that out.</summary>
    /// <param name="disk">The disk.</param>
    /// <param name="at">Where the sector begins, in bytes.</param>
    /// <param name="sector">512 bytes from there.</param>
    /// <param name="found">Where what is found goes.</param>
    void Look(IReadableBlocks disk, long at, ReadOnlySpan<byte> sector, List<FoundVolume> found);
}
