namespace Keel.Cli.Commands;

/// <summary>Finds the word that was meant.</summary>
internal static class NearWords
{
    /// <summary>The words that begin so; one alone where it is the word itself.</summary>
    public static IReadOnlyList<string> BeginningWith(string start, IEnumerable<string> words)
    {
        var all = words.ToList();
        var exact = all.Find(word => word.Equals(start, StringComparison.OrdinalIgnoreCase));
        return exact is not null ? [exact] : [.. all.Where(word => word.StartsWith(start, StringComparison.OrdinalIgnoreCase))];
    }

    /// <summary>The nearest word, where it is near enough to be a slip of the hand; null where none is.</summary>
    public static string? Nearest(string word, IEnumerable<string> words)
    {
        var limit = Math.Max(1, word.Length / 3);
        return words
            .Select(candidate => (Word: candidate, Slips: Slips(word.ToLowerInvariant(), candidate.ToLowerInvariant())))
            .Where(found => found.Slips <= limit)
            .OrderBy(found => found.Slips)
            .Select(found => found.Word)
            .FirstOrDefault();
    }

    /// <summary>
    /// How many slips lead from one word to the other: a letter too many, one too few, another one, or two swapped (the
    /// distance of Damerau and Levenshtein, without changes of changes).
    /// </summary>
    private static int Slips(string from, string to)
    {
        var cost = new int[from.Length + 1, to.Length + 1];
        for (var i = 0; i <= from.Length; i++) cost[i, 0] = i;
        for (var j = 0; j <= to.Length; j++) cost[0, j] = j;
        for (var i = 1; i <= from.Length; i++)
        {
            for (var j = 1; j <= to.Length; j++)
            {
                var isOther = from[i - 1] == to[j - 1] ? 0 : 1;
                var least = Math.Min(Math.Min(cost[i - 1, j] + 1, cost[i, j - 1] + 1), cost[i - 1, j - 1] + isOther);
                var isSwapped = i > 1 && j > 1 && from[i - 1] == to[j - 2] && from[i - 2] == to[j - 1];
                cost[i, j] = isSwapped ? Math.Min(least, cost[i - 2, j - 2] + 1) : least;
            }
        }

        return cost[from.Length, to.Length];
    }
}
