using Keel.Core.Errors;

namespace Keel.Core.Windows.Media;

/// <summary>One image of a file of images (WIM, ESD) as a tree to copy from.</summary>
/// <param name="file">The file, which the tree does not close.</param>
/// <param name="image">The image.</param>
public sealed class WimTree(WimFile file, WimImage image) : IFileTree
{
    /// <summary>The image.</summary>
    public WimImage Image => image;

    /// <inheritdoc/>
    public string Name => $"{file.Name}, {image}";

    /// <inheritdoc/>
    public bool FolderExists(string path) => file.IsFolder(image, path) == true;

    /// <inheritdoc/>
    public bool FileExists(string path) => file.IsFolder(image, path) == false;

    /// <inheritdoc/>
    public IReadOnlyList<(string Name, bool IsFolder, long SizeBytes)> List(string path) => file.List(image, path);

    /// <inheritdoc/>
    /// <exception cref="UnreadableException">It is not there, or damaged.</exception>
    public byte[] Read(string path) => file.Read(image, path);
}
