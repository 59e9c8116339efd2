namespace Keel.Core.Volumes;

/// <summary>A file or folder of a volume.</summary>
/// <param name="Name">As the volume spells it.</param>
/// <param name="IsFolder">Whether it is a folder.</param>
/// <param name="SizeBytes">0 for folders.</param>
/// <param name="Marks">Its attributes.</param>
public sealed record VolumeFile(string Name, bool IsFolder, long SizeBytes, FileMarks Marks)
{
    /// <summary>Whether Windows' overlay packed it, as it does with system files on small disks; its size is the unpacked
    /// one.</summary>
    public bool IsPacked { get; init; }

    /// <summary>Whether it stands for something that is not in it: another file or folder, or contents in a cloud.</summary>
    public bool IsElsewhere => (Marks & FileMarks.Reparse) != FileMarks.None && !IsPacked;
}
