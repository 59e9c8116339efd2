namespace Keel.Core.Store;

/// <summary>What differs between two stores, a line each.</summary>
public static class StoreDifference
{
    private const int LineLimit = 40;

    /// <summary>What is added, dropped and changed from one store to the next, a line each.</summary>
    public static IReadOnlyList<string> Lines(BootStore now, BootStore then)
    {
        var lines = new List<string>();
        foreach (var entry in then.Entries)
        {
            if (now.Entry(entry.Id) is not { } before)
                lines.Add($"new: {NameOf(entry)}");
            else
                lines.AddRange(Changed(before, entry));
        }

        lines.AddRange(now.Entries.Where(entry => then.Entry(entry.Id) is null).Select(entry => $"gone: {NameOf(entry)}"));
        if (lines.Count == 0) lines.Add("the entries are the same as those there");
        return lines.Count <= LineLimit ? lines : [.. lines.Take(LineLimit), $"and {lines.Count - LineLimit} more differences"];
    }

    private static IEnumerable<string> Changed(BootEntry before, BootEntry after)
    {
        foreach (var element in before.Elements.Union(after.Elements).Order())
        {
            var (old, next) = (before.Value(element), after.Value(element));
            if (old is not null && next is not null && old.Type == next.Type && old.Data.AsSpan().SequenceEqual(next.Data))
                continue;
            var what = old is null ? "is added" : next is null ? "is removed" : "changes";
            yield return $"{NameOf(after)}: {Settings.NameOf(element, after.Type)} {what}";
        }
    }

    private static string NameOf(BootEntry entry) => entry.Title ?? $"{entry.Type.Name} {entry.Id}";
}
