namespace Keel.Core.Windows;

/// <summary>A boot file, and the copy from which it can be recreated.</summary>
/// <param name="Target">Its path on the system volume.</param>
/// <param name="Source">The path of the copy in its source.</param>
/// <param name="SizeBytes">Its size, in bytes.</param>
public sealed record BootFileCopy(string Target, string Source, long SizeBytes);
