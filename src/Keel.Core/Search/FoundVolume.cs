using System.Numerics;
using Keel.Core.Blocks;
using Keel.Core.Volumes;

namespace Keel.Core.Search;

/// <summary>A volume that was found by what stands on the disk, whatever a partition table says.</summary>
/// <param name="Range">Where it lies, in bytes from the start of the disk; its size is its own word.</param>
/// <param name="Kind">Its file system; unknown for those of other systems.</param>
/// <param name="Name">What it is called: "NTFS", "ext4".</param>
/// <param name="Evidence">What speaks for it.</param>
/// <param name="SizeIsKnown">False where only its start is known; the range then ends where something else begins.</param>
public sealed record FoundVolume(
    ByteRange Range,
    FileSystemKind Kind,
    string Name,
    VolumeEvidence Evidence,
    bool SizeIsKnown = true)
{
    private const int EnoughEvidence = 3;

    /// <summary>The size of the sectors that its file system counts in, in bytes; 0 where it does not say.</summary>
    public int SectorBytes { get; init; }

    /// <summary>How many things speak for it.</summary>
    public int Score => BitOperations.PopCount((uint)Evidence);

    /// <summary>Whether it is a file system of another system, which keel only keeps out of the way of.</summary>
    public bool IsForeign => Evidence.HasFlag(VolumeEvidence.Mark);

    /// <summary>Whether a partition may be made for it without asking.</summary>
    /// <remarks>
    /// A first sector alone may be a left-over, and tables of files alone do not tell the size as surely: three things must
    /// agree.
    /// </remarks>
    public bool IsCertain => SizeIsKnown && (IsForeign || (Score >= EnoughEvidence && HasFileTable));

    private bool HasFileTable => (Evidence & (VolumeEvidence.FileTable | VolumeEvidence.FileTableCopy)) != VolumeEvidence.None;
}
