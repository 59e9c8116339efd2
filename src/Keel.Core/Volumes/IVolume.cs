using Keel.Core.Blocks;

namespace Keel.Core.Volumes;

/// <summary>
/// The files of a volume. Paths begin at the volume's root, are parted by backslashes, and are matched without case.
/// </summary>
/// <remarks>Changing calls are for a volume opened for writing; they land in the overlay that the volume stands on.</remarks>
public interface IVolume : IDisposable
{
    /// <summary>The file system.</summary>
    FileSystemKind Kind { get; }

    /// <summary>The volume's label; empty where it has none.</summary>
    string Label { get; }

    /// <summary>Room for more, in bytes, in whole clusters; asks the volume, so not for nothing.</summary>
    long FreeBytes { get; }

    /// <summary>The file or folder at a path; null where there is none.</summary>
    VolumeFile? Find(string path);

    /// <summary>
    /// What is in a folder, hidden and system files included, without the file system's own; empty where there is no such folder.
    /// </summary>
    IReadOnlyList<VolumeFile> List(string folder);

    /// <summary>The contents of a file, read as they are asked for.</summary>
    /// <exception cref="Errors.UnreadableException">There is no such file, or it can't be read.</exception>
    IReadableBlocks OpenFile(string path);

    /// <summary>Creates a file with these contents, or replaces those of the file that is there (its attributes stay).</summary>
    void WriteFile(string path, ReadOnlySpan<byte> contents);

    /// <summary>The same, piece by piece: a file that may be larger than the memory.</summary>
    void WriteFile(string path, IReadableBlocks contents);

    /// <summary>Writes over a part of a file that is there; its length stays.</summary>
    void Patch(string path, long offsetBytes, ReadOnlySpan<byte> bytes);

    /// <summary>Makes a file longer in its place; what is new reads as zeros, and has clusters of its own.</summary>
    /// <exception cref="Errors.UnreadableException">There is no room, or the file system does not do that.</exception>
    void Grow(string path, long lengthBytes);

    /// <summary>When a file was last written, as its file system says; null where that is not known.</summary>
    DateTimeOffset? WrittenAt(string path);

    /// <summary>Says when a file was written and created.</summary>
    void SetWritten(string path, DateTimeOffset time);

    /// <summary>Creates a folder, and those above it, where missing.</summary>
    void CreateFolder(string path);

    /// <summary>Gives a file another name in the same folder.</summary>
    void Rename(string path, string newName);

    /// <summary>Deletes a file, or an empty folder.</summary>
    void Delete(string path);

    /// <summary>
    /// Writes what is still in memory, and ends the use of the volume; where that fails, what was changed can't be trusted.
    /// </summary>
    /// <exception cref="Errors.KeelException">Not everything was written.</exception>
    void Close();

    /// <summary>Sets the changeable attributes to exactly these.</summary>
    void SetMarks(string path, FileMarks marks);
}
