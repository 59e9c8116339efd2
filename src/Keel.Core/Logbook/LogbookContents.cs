namespace Keel.Core.Logbook;

/// <summary>What is in a logbook.</summary>
/// <param name="Records">Oldest first, by their sequence.</param>
/// <param name="Unusable">Records that can't be used.</param>
public sealed record LogbookContents(IReadOnlyList<RepairRecord> Records, IReadOnlyList<UnusableRecord> Unusable)
{
    /// <summary>A logbook without records.</summary>
    public static readonly LogbookContents Empty = new([], []);
}
