using Keel.Cli.Views.Json;
using Keel.Core.Errors;

namespace Keel.Cli.Rounds;

/// <summary>What came of rounds, counted over all their targets.</summary>
internal sealed class RoundTally
{
    private readonly SortedDictionary<string, RoundLineDocument> entries = new(StringComparer.Ordinal);

    /// <summary>Each target once, by name; what was noted last counts.</summary>
    public IReadOnlyCollection<RoundLineDocument> Entries => entries.Values;

    /// <summary>How many targets have each verdict, in the order of their weight.</summary>
    public IReadOnlyList<(string Name, int Count)> Verdicts =>
    [
        .. ((string[])["broken", "doubtful", "unreadable", "sound"])
            .Select(verdict => (verdict, entries.Values.Count(entry => entry.Verdict == verdict)))
    ];

    /// <summary>How many targets have each finding, the most frequent first.</summary>
    public IReadOnlyList<(string Name, int Count)> Findings => Counted(entries.Values.SelectMany(entry => entry.Findings ?? []));

    /// <summary>How many would show each screen.</summary>
    public IReadOnlyList<(string Name, int Count)> Screens =>
        Counted(entries.Values.Select(entry => entry.Screen).OfType<string>());

    /// <summary>How many stop at each link.</summary>
    public IReadOnlyList<(string Name, int Count)> Links =>
        Counted(entries.Values.Select(entry => entry.StopsAt).OfType<string>());

    /// <summary>How many were mended.</summary>
    public int Mended => entries.Values.Count(entry => entry is { Record: not null, AfterMend: "sound" });

    /// <summary>How many keel could mend that are not.</summary>
    public int Mendable => entries.Values.Count(entry => entry is { Record: null, Verdict: not "sound", AfterPlan: "sound" });

    /// <summary>Reads the lines of rounds.</summary>
    /// <param name="places">Folders of rounds, or single files of lines.</param>
    /// <exception cref="UnreadableException">One has none.</exception>
    public static RoundTally Of(IReadOnlyList<string> places)
    {
        var tally = new RoundTally();
        foreach (var file in places.SelectMany(FilesOf))
        {
            foreach (var entry in RoundLedger.Read(file)) tally.Add(entry);
        }

        return tally;
    }

    private static List<(string Name, int Count)> Counted(IEnumerable<string> names) =>
    [
        .. names.GroupBy(name => name, StringComparer.Ordinal)
            .Select(group => (group.Key, group.Count()))
            .OrderByDescending(pair => pair.Item2)
            .ThenBy(pair => pair.Key, StringComparer.Ordinal)
    ];

    private static IEnumerable<string> FilesOf(string place)
    {
        if (File.Exists(place)) return [place];
        string[] files = Directory.Exists(place)
            ? [.. Directory.GetFiles(place, "*" + RoundLedger.Ending).Order(StringComparer.Ordinal)]
            : [];
        return files.Length > 0
            ? files
            : throw new UnreadableException(
                $"There is no round in {place}.",
                $"A round is a folder with files whose names end in {RoundLedger.Ending}.",
                "Name the folder that was given to 'keel round' with --out.");
    }

    private void Add(RoundLineDocument entry)
    {
        if (!entries.TryGetValue(entry.Target, out var known) || known.At <= entry.At) entries[entry.Target] = entry;
    }
}
