namespace Keel.Core.Volumes;

/// <summary>A file or folder of a volume.</summary>
/// <param name="Name">As the volume spells it.</param>
/// <param name="IsFolder">Whether it is a folder.</param>
/// <param name="SizeBytes">0 for folders.</param>
/// <param name="Marks">Its attributes.</param>
public sealed record VolumeFile(string Name, bool IsFolder, long SizeBytes, FileMarks Marks);
