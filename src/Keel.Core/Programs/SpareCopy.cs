namespace Keel.Core.Programs;

/// <summary>A copy of a file of Windows that an installation keeps for itself.</summary>
/// <param name="Path">From the top of the Windows volume.</param>
/// <param name="Version">The version that it says.</param>
/// <param name="Written">When it was written.</param>
/// <param name="SizeBytes">Its size, in bytes.</param>
public sealed record SpareCopy(string Path, Version? Version, DateTimeOffset? Written, long SizeBytes);
