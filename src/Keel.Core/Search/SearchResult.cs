namespace Keel.Core.Search;

/// <summary>What a search came to.</summary>
/// <param name="Volumes">Volumes that can be there together, in the order of the disk.</param>
/// <param name="Rivals">Those that can't be there beside them, with as much that speaks for them: another reading.</param>
/// <param name="IsThorough">Whether every sector was looked at.</param>
public sealed record SearchResult(IReadOnlyList<FoundVolume> Volumes, IReadOnlyList<FoundVolume> Rivals, bool IsThorough)
{
    /// <summary>
    /// Takes the volumes with the most evidence; what lies in one of them is a file of it, and what only touches one is a rival
    /// or a left-over.
    /// </summary>
    /// <param name="found">All that was found, some perhaps several times.</param>
    /// <param name="diskBytes">The size of the disk.</param>
    /// <param name="isThorough">Whether every sector was looked at.</param>
    internal static SearchResult Of(IEnumerable<FoundVolume> found, long diskBytes, bool isThorough)
    {
        var ordered = found
            .GroupBy(volume => (volume.Range, volume.Name))
            .Select(group => group.MaxBy(volume => volume.Score)!)
            .OrderByDescending(volume => volume.IsCertain)
            .ThenByDescending(volume => volume.Score)
            .ThenByDescending(volume => volume.Range.Length)
            .ThenBy(volume => volume.Range.Start)
            .ToList();
        var taken = new List<FoundVolume>();
        var rivals = new List<FoundVolume>();
        foreach (var volume in ordered.Where(volume => volume.SizeIsKnown))
        {
            var inTheWay = taken.Where(other => other.Range.Overlaps(volume.Range)).ToList();
            if (inTheWay.Count == 0) taken.Add(volume);
            else if (inTheWay.TrueForAll(other => IsRival(volume, other))) rivals.Add(volume);
        }

        foreach (var volume in ordered.Where(volume => !volume.SizeIsKnown))
        {
            if (taken.Exists(other => other.Range.Contains(volume.Range.Start))) continue;
            var end = taken
                .Select(other => other.Range.Start)
                .Where(start => start > volume.Range.Start)
                .DefaultIfEmpty(diskBytes)
                .Min();
            taken.Add(volume with { Range = new(volume.Range.Start, end - volume.Range.Start) });
        }

        return new SearchResult([.. taken.OrderBy(volume => volume.Range.Start)], rivals, isThorough);
    }

    private static bool IsRival(FoundVolume volume, FoundVolume taken)
    {
        var liesInside = volume.Range.Start > taken.Range.Start && volume.Range.End <= taken.Range.End;
        return volume.IsCertain && !liesInside && volume.Score >= taken.Score;
    }
}
