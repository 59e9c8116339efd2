namespace Keel.Core.Machines;

/// <summary>A block of a file that the disk does not give.</summary>
/// <param name="File">The file that could not be read.</param>
/// <param name="OffsetBytes">From the start of the file.</param>
public sealed record UnreadBlock(FilePlace File, long OffsetBytes);
