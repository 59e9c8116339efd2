using System.Globalization;
using System.Text;
using Keel.Cli.Views.Reports;

namespace Keel.Cli.Rounds;

/// <summary>A tally as a table of comma-separated values (RFC 4180), a row for each target.</summary>
internal static class TallyTable
{
    private static readonly string[] Heads =
        ["target", "verdict", "firmware", "scheme", "size", "windows", "stopsAt", "screen", "findings", "afterPlan", "problem"];

    /// <summary>The table; the same rounds give the same bytes, whoever did them.</summary>
    public static string Text(RoundTally tally)
    {
        var text = new StringBuilder();
        Row(text, Heads);
        foreach (var entry in tally.Entries)
        {
            Row(text, [
                entry.Target,
                entry.Verdict,
                entry.Firmware ?? "",
                entry.Scheme ?? "",
                entry.Size?.ToString(CultureInfo.InvariantCulture) ?? "",
                string.Join("; ", entry.Windows ?? []),
                entry.StopsAt ?? "",
                entry.Screen ?? "",
                string.Join(' ', entry.Findings ?? []),
                entry.AfterPlan ?? "",
                entry.Problem ?? ""
            ]);
        }

        return text.ToString();
    }

    private static void Row(StringBuilder text, string[] cells) => text.AppendJoin(',', cells.Select(Cell)).Append("\r\n");

    /// <summary>
    /// A cell that a table program would take for a formula gets a mark that keeps it text; letters that a terminal would obey
    /// are shown as numbers.
    /// </summary>
    private static string Cell(string value)
    {
        value = HtmlText.Visible(value);
        if (value.Length > 0 && "=+-@\t\r".Contains(value[0], StringComparison.Ordinal)) value = $"'{value}";
        return value.AsSpan().IndexOfAny(",\"\r\n") < 0
            ? value
            : $"\"{value.Replace("\"", "\"\"", StringComparison.Ordinal)}\"";
    }
}
