namespace Keel.Core.Windows;

/// <summary>
/// A tree of folders and files to copy from. Paths are relative to its top, parted by backslashes, and matched without case.
/// </summary>
public interface IFileTree
{
    /// <summary>What it is called when it is spoken of.</summary>
    string Name { get; }

    /// <summary>Whether there is such a folder.</summary>
    bool FolderExists(string path);

    /// <summary>Whether there is such a file.</summary>
    bool FileExists(string path);

    /// <summary>What is in a folder; empty where there is none.</summary>
    IReadOnlyList<(string Name, bool IsFolder, long SizeBytes)> List(string path);

    /// <summary>A whole file.</summary>
    /// <exception cref="Errors.UnreadableException">It can't be read, or is absurdly large.</exception>
    byte[] Read(string path);
}
