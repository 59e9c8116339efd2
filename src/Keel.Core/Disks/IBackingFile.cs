using Keel.Core.Blocks;

namespace Keel.Core.Disks;

/// <summary>
/// What a virtual disk lies in: a file that may grow. It stands on a disk of this computer, or inside another disk.
/// </summary>
public interface IBackingFile : IWritableBlocks
{
    /// <summary>Makes the file longer; what is new reads as zeros.</summary>
    /// <param name="lengthBytes">Its new length, not less than the old one.</param>
    /// <exception cref="Errors.UnreadableException">There is no room for it.</exception>
    void Grow(long lengthBytes);

    /// <summary>The first place from the given one on, in bytes, that may hold anything but zeros.</summary>
    long NextData(long offsetBytes);
}
