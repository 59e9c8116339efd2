using System.Globalization;
using System.Text;
using Keel.Cli.Views.Reports;

namespace Keel.Cli.Rounds;

/// <summary>A tally as one page: verdicts, findings, screens and links as bars, and a table of what is not sound.</summary>
internal sealed class TallyPage(RoundTally tally, DateTimeOffset made)
{
    private const int MostRows = 5_000;
    private readonly StringBuilder page = new();
    private int plots;

    /// <summary>The whole page.</summary>
    public string Text()
    {
        page.Append("<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n");
        page.Append("<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n");
        page.Append("<meta name=\"color-scheme\" content=\"light dark\">\n<title>Round</title>\n");
        page.Append(CultureInfo.InvariantCulture, $"<style>\n{HtmlReport.Style()}</style>\n</head>\n<body>\n<main>\n");
        page.Append(CultureInfo.InvariantCulture, $"<header>\n<p class=\"kicker\">{made.UtcDateTime:yyyy-MM-dd HH:mm} UTC</p>\n");
        page.Append(CultureInfo.InvariantCulture, $"<h1>{HtmlText.Of(Answer(tally))}</h1>\n</header>\n");
        Plot("Verdicts", tally.Verdicts, "#0060A0");
        Plot("Findings", tally.Findings, "#B03A00");
        Plot("Screens that they would show", tally.Screens, "#8A5A00");
        Plot("Links that they stop at", tally.Links, "#006E52");
        Rows();
        return page.Append("</main>\n</body>\n</html>\n").ToString();
    }

    /// <summary>What came of the rounds, in a sentence.</summary>
    public static string Answer(RoundTally tally)
    {
        var counts = tally.Verdicts.Where(pair => pair.Count > 0).Select(pair => $"{pair.Count} {WordFor(pair.Name)}");
        var list = string.Join(", ", counts);
        var mend = tally.Mendable > 0 ? $" keel could mend {tally.Mendable} of them." : "";
        var mended = tally.Mended > 0 ? $" {tally.Mended} were mended." : "";
        return $"{tally.Entries.Count} machines: {(list.Length > 0 ? list : "none was looked at")}.{mended}{mend}";
    }

    private static string WordFor(string verdict) => verdict == "unreadable" ? "could not be read" : verdict;

    private void Plot(string title, IReadOnlyList<(string Name, int Count)> counts, string color)
    {
        if (counts.Count == 0) return;
        var words = string.Join(", ", counts.Select(pair => $"{pair.Name} {pair.Count}"));
        page.Append(CultureInfo.InvariantCulture, $"<h2>{HtmlText.Of(title)}</h2>\n");
        page.Append(CultureInfo.InvariantCulture, $"<figure class=\"plot\" role=\"img\" aria-label=\"{HtmlText.Of(words)}\">\n");
        page.Append(TallyPlots.Bars(counts, color, $"plot{++plots}-")).Append("</figure>\n");
    }

    private void Rows()
    {
        var all = tally.Entries.Where(entry => entry.Verdict != "sound").ToList();
        if (all.Count == 0) return;
        page.Append(CultureInfo.InvariantCulture, $"<h2>Not sound ({all.Count})</h2>\n");
        if (all.Count > MostRows)
        {
            page.Append(CultureInfo.InvariantCulture, $"<p>The first {MostRows}; ");
            page.Append("all of them are in a table (--out FILE.csv).</p>\n");
        }

        page.Append("<div class=\"wide\" tabindex=\"0\">\n<table>\n");
        page.Append("<thead><tr><th scope=\"col\">Disk</th><th scope=\"col\">Verdict</th><th scope=\"col\">Stops at</th>");
        page.Append("<th scope=\"col\">Findings</th><th scope=\"col\">After the plan</th></tr></thead>\n<tbody>\n");
        foreach (var row in all.Take(MostRows))
        {
            var findings = row.Problem ?? string.Join(", ", row.Findings ?? []);
            page.Append("<tr>");
            foreach (var cell in new[] { row.Target, row.Verdict, row.StopsAt, findings, row.AfterMend ?? row.AfterPlan })
                page.Append(CultureInfo.InvariantCulture, $"<td>{HtmlText.Of(cell ?? "")}</td>");
            page.Append("</tr>\n");
        }

        page.Append("</tbody>\n</table>\n</div>\n");
    }
}
