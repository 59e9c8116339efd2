using System.Globalization;
using System.Text;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;

namespace Keel.Cli.Views.Reports;

/// <summary>The report as Markdown, for tickets that take text.</summary>
internal sealed class MarkdownReport(ReportDocument report)
{
    private const string Marks = "\\`*_{}[]<>#|!~&";
    private readonly StringBuilder text = new();

    /// <summary>The whole text.</summary>
    public string Text()
    {
        var ticket = report.Ticket is null ? "" : $"Ticket {report.Ticket}, ";
        Line($"# {E(report.Verdict)}");
        Line($"{E(ticket)}{Time(report.Made)}");
        foreach (var sentence in report.ForCustomer) Line(E(sentence));
        List("What remains to be done", report.Remaining.Select(E));
        List("The chain", report.Chain.Select(link =>
        {
            var (_, sign, word) = ChainPicture.Look(link);
            return $"{sign} {E(link.Link)}: {E(word)} - {E(link.SeenAfter ?? link.Seen)}";
        }));
        List("Code", Codes());
        List("Findings", report.Before.Findings.Select(finding =>
            $"{E(finding.Id)} ({E(finding.Severity)}, {E(finding.Link)}): {E(finding.Evidence)}"));
        List(report.After is null ? "Plan (nothing of it is written)" : "What was planned and written", Steps());
        List("Left as it is", report.Before.Left.Select(one => $"{E(one.Finding)}: {E(one.Why)} {E(one.Todo)}"));
        Repairs();
        List("Machine and disks", Disks());
        List("What the machine remembers (its own clock; never proof)", report.History.Select(moment =>
            (moment.Time?.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture) ?? "-")
                + $" {E(moment.Says)} ({E(moment.Source)})"));
        return text.ToString();
    }

    private static string Time(DateTimeOffset time) =>
        time.UtcDateTime.ToString("yyyy-MM-dd HH:mm 'UTC'", CultureInfo.InvariantCulture);

    private static string E(string words)
    {
        var safe = new StringBuilder();
        foreach (var letter in HtmlText.Visible(words))
        {
            if (Marks.Contains(letter, StringComparison.Ordinal)) safe.Append('\\');
            safe.Append(letter);
        }

        return safe.ToString();
    }

    private IEnumerable<string> Codes()
    {
        if (report.Reported is { } reported)
            yield return $"reported: {E($"{reported.Input} {reported.Name}".Trim())} - {E(reported.Meaning ?? "not known")}";
        if (report.Screen is { } screen)
            yield return $"this disk would show: {E($"{screen.Input} {screen.Name}".Trim())} - {E(screen.Meaning ?? "")}";
    }

    private IEnumerable<string> Steps()
    {
        foreach (var step in report.Before.Plan)
        {
            yield return $"{E(step.Link)}: {E(step.Summary)}";
            foreach (var line in step.Details) yield return $"  - {E(line)}";
        }
    }

    private void Repairs()
    {
        List("Repairs of this disk in the logbook", report.Repairs.Select(repair =>
            $"{E(repair.Id)}, {Time(repair.Written)}, {E(repair.State)}: "
                + string.Join("; ", repair.Steps.Select(step => E(step.Summary)))));
        if (report.Repairs.All(repair => repair.State != "done")) return;
        Line("To take the last one back, byte for byte:");
        Line($"    {HtmlText.Visible(report.UndoCommand)}");
    }

    private IEnumerable<string> Disks()
    {
        foreach (var disk in report.Machine.Disks)
        {
            yield return $"{E(disk.Path)}: {Sizes.Text(disk.Size)}, {E(disk.Scheme.ToUpperInvariant())}, {E(disk.Identity)}";
            foreach (var part in disk.Partitions)
            {
                var windows = string.Concat(part.Installations.Select(one =>
                    $", {one.Product} in {one.Folder}, build {one.Build}"));
                yield return $"  - volume {part.Number}: {E(part.Type)}, {E(part.FileSystem)}, "
                    + $"{Sizes.Text(part.Size)}{E(windows)}";
                if (part.Encryption is { } encryption)
                    yield return $"  - volume {part.Number} is encrypted: {E(encryption.Says)}";
            }
        }
    }

    private void Line(string line) => text.Append(line).Append("\n\n");

    /// <summary>A line that begins with a hyphen behind two spaces belongs under the one before it.</summary>
    private void List(string heading, IEnumerable<string> lines)
    {
        var list = lines.ToList();
        if (list.Count == 0) return;
        text.Append(CultureInfo.InvariantCulture, $"## {heading}\n\n");
        foreach (var line in list)
            text.Append(line.StartsWith("  - ", StringComparison.Ordinal) ? $"{line}\n" : $"- {line}\n");
        text.Append('\n');
    }
}
