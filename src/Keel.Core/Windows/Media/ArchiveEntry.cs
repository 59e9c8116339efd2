namespace Keel.Core.Windows.Media;

/// <summary>A file or folder in an image or a cabinet.</summary>
/// <param name="Path">From its top, parted by backslashes.</param>
/// <param name="IsFolder">Whether it is a folder.</param>
/// <param name="SizeBytes">Its size, in bytes, as the archive says.</param>
internal sealed record ArchiveEntry(string Path, bool IsFolder, long SizeBytes);
