namespace Keel.Core.Programs;

/// <summary>A copy of a file of Windows that an installation keeps for itself.</summary>
/// <param name="Path">From the top of the Windows volume.</param>
/// <param name="Version">The version that it says.</param>
/// <param name="Written">When it was written.</param>
/// <param name="SizeBytes">Its size, in bytes.</param>
public sealed record SpareCopy(string Path, Version? Version, DateTimeOffset? Written, long SizeBytes)
{
    private const int FirstMajorWithRevisions = 10;

    /// <summary>
    /// Whether it is newer than the Windows that is in force: staged for an update, with a catalog that may not be installed. A
    /// driver's own numbers tell nothing of that.
    /// </summary>
    /// <param name="revision">The revision of the build in force; null where it is not known.</param>
    public bool IsStaged(int? revision) =>
        revision is { } known && Version is { Major: FirstMajorWithRevisions, Minor: 0 } version && version.Revision > known;
}
