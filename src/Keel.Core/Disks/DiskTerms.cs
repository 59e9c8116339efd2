using Keel.Core.Keys;

namespace Keel.Core.Disks;

/// <summary>What was said of how disks are to be opened.</summary>
public sealed record DiskTerms
{
    /// <summary>Nothing was said.</summary>
    public static DiskTerms Usual { get; } = new();

    /// <summary>The sector size of an image in bytes; null where its table shows it.</summary>
    public int? SectorBytes { get; init; }

    /// <summary>What the file is, whatever its contents look like; null to judge by them.</summary>
    public FileFormat? Format { get; init; }

    /// <summary>
    /// The folder for what a plan changes, where that is more than the memory that is taken for it; null to keep it in memory.
    /// </summary>
    public string? SpillFolder { get; init; }

    /// <summary>
    /// The virtual disk that is meant inside the disk that is named, layer by layer; empty for that disk itself.
    /// </summary>
    public IReadOnlyList<InsidePath> Inside { get; init; } = [];

    /// <summary>
    /// Whether a file that an image names, and that lies outside the image's folder, may be opened: its full path is given. Who
    /// makes an image can name any file of this computer in it.
    /// </summary>
    public Func<string, bool> MayOpen { get; init; } = _ => false;

    /// <summary>What opens encrypted volumes; null where nothing was given. It is disposed of by whoever made it.</summary>
    public KeyRing? Keys { get; init; }
}
