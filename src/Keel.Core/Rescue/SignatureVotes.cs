namespace Keel.Core.Rescue;

/// <summary>Under which signature stores and SYSTEM hives know a disk, by the places where its partitions begin.</summary>
internal sealed class SignatureVotes
{
    private readonly List<(uint Signature, long StartBytes)> claims = [];

    /// <summary>Somebody says that a partition begins there on a disk of that signature.</summary>
    public void Add(uint signature, long startBytes) => claims.Add((signature, startBytes));

    /// <summary>
    /// The disk signature that most claims about places where partitions begin agree on; null where none does, or two as many.
    /// </summary>
    public uint? For(IReadOnlyCollection<long> starts)
    {
        var votes = claims
            .Where(claim => claim.Signature != 0 && starts.Contains(claim.StartBytes))
            .Distinct()
            .GroupBy(claim => claim.Signature)
            .Select(group => (Signature: group.Key, Count: group.Count()))
            .OrderByDescending(vote => vote.Count)
            .ToList();
        return votes.Count == 0 || (votes.Count > 1 && votes[1].Count == votes[0].Count) ? null : votes[0].Signature;
    }
}
