namespace Keel.Core.Logbook;

/// <summary>What is in a logbook.</summary>
/// <param name="Records">Oldest first, by their sequence.</param>
public sealed record LogbookContents(IReadOnlyList<RepairRecord> Records, IReadOnlyList<UnusableRecord> Unusable)
{
    public static readonly LogbookContents Empty = new([], []);
}
