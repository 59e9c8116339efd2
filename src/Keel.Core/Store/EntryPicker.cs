using Keel.Core.Errors;

namespace Keel.Core.Store;

/// <summary>
/// Finds the entry that a technician names: by number in the list, "manager", "preferred", a part of the title, or the start of
/// the identifier.
/// </summary>
public static class EntryPicker
{
    /// <summary>
    /// The entries in the order in which they are listed and numbered, from 1: the menu, the manager, other programs, then
    /// settings and options.
    /// </summary>
    public static IReadOnlyList<BootEntry> Listed(BootStore store)
    {
        var places = new Dictionary<EntryId, int>();
        foreach (var id in store.Manager?.References(Element.MenuOrder) ?? []) places.TryAdd(id, places.Count);
        return [.. store.Entries.OrderBy(entry =>
            places.TryGetValue(entry.Id, out var place) ? place - int.MaxValue : Rank(entry))];
    }

    /// <summary>The entry.</summary>
    /// <exception cref="WrongUsageException">None, or more than one, fits; the candidates are named.</exception>
    public static BootEntry Pick(BootStore store, string words)
    {
        var listed = Listed(store);
        if (words.Equals("manager", StringComparison.OrdinalIgnoreCase) && store.Manager is { } manager) return manager;
        if (words.Equals("preferred", StringComparison.OrdinalIgnoreCase)
            && store.Preferred is { } preferred
            && store.Entry(preferred) is { } found)
        {
            return found;
        }

        if (int.TryParse(words, out var number) && number >= 1 && number <= listed.Count) return listed[number - 1];
        var matches = listed
            .Where(entry => entry.Id.Value.ToString().StartsWith(words.Trim('{', '}'), StringComparison.OrdinalIgnoreCase))
            .ToList();
        if (matches.Count == 0)
            matches = [.. listed.Where(entry => words.Equals(entry.Title, StringComparison.OrdinalIgnoreCase))];
        if (matches.Count == 0)
            matches = [.. listed.Where(entry => entry.Title?.Contains(words, StringComparison.OrdinalIgnoreCase) == true)];
        return matches.Count == 1
            ? matches[0]
            : throw NotOne(
                words,
                listed,
                matches.Count > 0 ? matches : listed.Where(entry => entry.Type.IsApplication).ToList(),
                matches.Count);
    }

    private static int Rank(BootEntry entry) =>
        1000
            + (entry.Type == EntryType.Manager ? 0
                : entry.Type == EntryType.Windows ? 1 : entry.Type.IsApplication ? 2 : entry.Type.IsSettings ? 3 : 4);

    private static WrongUsageException NotOne(
        string words,
        IReadOnlyList<BootEntry> listed,
        List<BootEntry> candidates,
        int matches)
    {
        const int shown = 8;
        var numbered =
            candidates.Take(shown).Select(entry => $"{listed.ToList().IndexOf(entry) + 1} {entry.Title ?? entry.Type.Name}");
        return new WrongUsageException(
            matches == 0 ? $"No entry is called \"{words}\"." : $"\"{words}\" fits {matches} entries.",
            $"There {(candidates.Count == 1 ? "is" : "are")}: {string.Join("; ", numbered)}.",
            "Name one by its number.");
    }
}
