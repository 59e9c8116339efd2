namespace Keel.Core.Windows;

/// <summary>A copy of a file of Windows that an installation keeps for itself.</summary>
/// <param name="Path">From the top of the Windows volume.</param>
public sealed record SpareCopy(string Path, Version? Version, DateTimeOffset? Written, long SizeBytes);
