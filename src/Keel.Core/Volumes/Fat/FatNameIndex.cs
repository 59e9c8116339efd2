namespace Keel.Core.Volumes.Fat;

/// <summary>
/// Finds the entries of a folder by name, long or short, whatever the case; the first one counts where a name stands twice.
/// </summary>
internal sealed class FatNameIndex
{
    private readonly Dictionary<string, FatEntry> names = new(StringComparer.OrdinalIgnoreCase);
    private readonly Dictionary<string, FatEntry> shortNames = new(StringComparer.OrdinalIgnoreCase);

    public FatNameIndex(IEnumerable<FatEntry> entries)
    {
        foreach (var entry in entries) Add(entry);
    }

    public void Add(FatEntry entry)
    {
        names.TryAdd(entry.Name, entry);
        shortNames.TryAdd(FatNames.ShortText(entry.ShortName), entry);
    }

    /// <summary>Takes an entry in the place of one that has the same slots and names.</summary>
    public void Replace(FatEntry old, FatEntry changed)
    {
        if (names[old.Name].FirstSlot == old.FirstSlot) names[old.Name] = changed;
        var shortName = FatNames.ShortText(old.ShortName);
        if (shortNames[shortName].FirstSlot == old.FirstSlot) shortNames[shortName] = changed;
    }

    /// <summary>The entry of that name; a long name comes before another entry's short one.</summary>
    public FatEntry? Find(string name) => names.GetValueOrDefault(name) ?? shortNames.GetValueOrDefault(name);
}
