namespace Keel.Core.Search;

/// <summary>Something on a volume that looks like a file, or like a folder of them.</summary>
/// <param name="Kind">What it looks like.</param>
/// <param name="AtByte">Where it begins, in bytes from the volume's start.</param>
public readonly record struct FileTrace(string Kind, long AtByte);
