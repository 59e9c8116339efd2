namespace Keel.Core.Blocks;

/// <summary>The places of a disk that it would not give when they were asked for.</summary>
public sealed class ReadErrors
{
    private const int Limit = 4096;
    private readonly SortedSet<long> sectors = [];

    /// <summary>The sectors, in order; of very many only the first that were met.</summary>
    public IReadOnlyCollection<long> Sectors => sectors;

    /// <summary>Whether anything could not be read.</summary>
    public bool Any => sectors.Count > 0;

    internal bool Contains(long sector) => sectors.Contains(sector);

    internal void Add(IEnumerable<long> failed)
    {
        foreach (var sector in failed)
        {
            if (sectors.Count < Limit) sectors.Add(sector);
        }
    }
}
