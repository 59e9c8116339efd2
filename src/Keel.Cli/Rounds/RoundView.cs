using System.Diagnostics;
using System.Globalization;
using Keel.Cli.Rounds;
using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;

namespace Keel.Cli.Rounds;

/// <summary>Shows how far a round is, what came of it, and a tally of rounds.</summary>
internal sealed class RoundView(Output output)
{
    private const int MostShown = 10;

    /// <summary>Tells of each target that ended: how many are done, and how long the rest will take.</summary>
    public Action<string, int, int> Progress()
    {
        var clock = Stopwatch.StartNew();
        var show = output.Progress("looked at");
        var first = 0;
        return (target, number, count) =>
        {
            if (first == 0) first = number;
            var each = clock.Elapsed.TotalSeconds / (number - first + 1);
            var left = TimeSpan.FromSeconds(each * (count - number));
            var words = left.ToString(left.TotalHours < 1 ? @"m\:ss" : @"h\:mm\:ss", CultureInfo.InvariantCulture);
            show($"{words} left, {target}", number, count);
        };
    }

    /// <summary>The end of a round.</summary>
    public void Show(RoundLedger ledger, RoundRun run, int targets, string folder)
    {
        if (output.IsJson)
        {
            KeelJson.Print(
                new RoundDocument(ledger.Path, targets, run.DoneBefore, run.DoneNow, run.IsStopped, ledger.Verdicts),
                KeelJson.Default.RoundDocument);
            return;
        }

        var done = run.DoneBefore + run.DoneNow;
        var verdicts = string.Join(", ", ledger.Verdicts.OrderBy(pair => pair.Key, StringComparer.Ordinal)
            .Select(pair => $"{pair.Value} {pair.Key}"));
        output.Paragraph(
            run.IsStopped ? $"STOPPED: {done} of {targets} are done. The same command goes on."
                : $"{done} of {targets} looked at: {(verdicts.Length > 0 ? verdicts : "none")}.",
            style: run.IsStopped ? "yellow" : "bold");
        var speed = run.DoneNow > 0 && run.Took.TotalSeconds > 1
            ? string.Create(CultureInfo.InvariantCulture, $", {run.DoneNow / run.Took.TotalSeconds:0} a second")
            : "";
        if (run.DoneBefore > 0) output.Paragraph($"{run.DoneBefore} were done before, {run.DoneNow} now{speed}.");
        output.Paragraph($"What was found of each is in {ledger.Path}. To count it:");
        output.Command($"keel round tally {CommandWords.Quoted(folder)} --out round.html");
    }

    /// <summary>A tally of rounds.</summary>
    public void Show(RoundTally tally, IReadOnlyList<string> files)
    {
        if (output.IsJson)
        {
            KeelJson.Print(
                new TallyDocument(
                    tally.Entries.Count,
                    Counts(tally.Verdicts),
                    Counts(tally.Findings),
                    Counts(tally.Screens),
                    Counts(tally.Links),
                    tally.Mended,
                    tally.Mendable),
                KeelJson.Default.TallyDocument);
            return;
        }

        output.Paragraph(TallyPage.Answer(tally), style: "bold");
        Columns("Findings", tally.Findings);
        Columns("Screens", tally.Screens);
        Columns("Where they stop", tally.Links);
        Unreadable(tally);
        if (files.Count == 0) return;
        output.Line();
        foreach (var file in files) output.Paragraph($"Written: {file}");
    }

    private void Unreadable(RoundTally tally)
    {
        var problems = tally.Entries
            .Where(entry => entry.Verdict == "unreadable")
            .Select(entry => entry.Problem ?? entry.Target)
            .ToList();
        if (problems.Count == 0) return;
        output.Heading("Could not be read");
        foreach (var problem in problems.Take(MostShown)) output.Paragraph(problem, indent: 2);
        ShowOthers(problems.Count);
    }

    private static SortedDictionary<string, int> Counts(IReadOnlyList<(string Name, int Count)> counts) =>
        new(counts.ToDictionary(pair => pair.Name, pair => pair.Count), StringComparer.Ordinal);

    private void Columns(string heading, IReadOnlyList<(string Name, int Count)> counts)
    {
        if (counts.Count == 0) return;
        output.Heading(heading);
        output.Columns([.. counts.Take(MostShown).Select(pair =>
            new (string, string?)[] { ($"{pair.Count}", "bold"), (pair.Name, null) })]);
        ShowOthers(counts.Count);
    }

    private void ShowOthers(int all)
    {
        if (all > MostShown)
            output.Paragraph($"and {Words.Count(all - MostShown, "other", "others")}", indent: 2, style: "grey");
    }
}
