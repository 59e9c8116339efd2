using System.Globalization;
using System.Text;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;

namespace Keel.Cli.Views.Reports;

/// <summary>The report as one page without scripts: for the customer at its top, for the next technician below.</summary>
internal sealed class HtmlReport(ReportDocument report)
{
    private const string StyleResource = "Reports/report.css";
    private readonly StringBuilder page = new();

    /// <summary>The whole page.</summary>
    public string Page()
    {
        Head();
        Customer();
        Code();
        Findings();
        Steps();
        Repairs();
        Chain();
        Machine();
        History();
        page.Append("</main>\n</body>\n</html>\n");
        return page.ToString();
    }

    /// <summary>A style that is kept in the program.</summary>
    internal static string Style(string resource = StyleResource)
    {
        using var stream = typeof(HtmlReport).Assembly.GetManifestResourceStream(resource)!;
        using var reader = new StreamReader(stream, Encoding.UTF8);
        return reader.ReadToEnd();
    }

    private static string E(string? text) => HtmlText.Of(text ?? "");

    private static string Time(DateTimeOffset time) =>
        time.UtcDateTime.ToString("yyyy-MM-dd HH:mm 'UTC'", CultureInfo.InvariantCulture);

    private void Head()
    {
        var ticket = report.Ticket is null ? "" : $" {E(report.Ticket)}";
        page.Append("<!DOCTYPE html>\n<html lang=\"en\">\n<head>\n<meta charset=\"utf-8\">\n");
        page.Append("<meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">\n");
        page.Append("<meta name=\"color-scheme\" content=\"light dark\">\n");
        page.Append(CultureInfo.InvariantCulture, $"<title>Report{ticket}: {E(report.Verdict)}</title>\n");
        page.Append(CultureInfo.InvariantCulture, $"<style>\n{Style()}</style>\n</head>\n<body>\n<main>\n");
    }

    private void Customer()
    {
        var ticket = report.Ticket is null ? "" : $"Ticket {report.Ticket}, ";
        page.Append(CultureInfo.InvariantCulture, $"<header>\n<p class=\"kicker\">{E(ticket)}{Time(report.Made)}</p>\n");
        page.Append(CultureInfo.InvariantCulture, $"<h1>{E(report.Verdict)}</h1>\n</header>\n<div class=\"top\">\n<div>\n");
        foreach (var sentence in report.ForCustomer) page.Append(CultureInfo.InvariantCulture, $"<p>{E(sentence)}</p>\n");
        List("What remains to be done", report.Remaining);
        page.Append("</div>\n<figure>\n").Append(new ChainPicture(report.Chain).Svg());
        page.Append("<figcaption>What happens when the machine starts, in order.</figcaption>\n</figure>\n</div>\n");
        page.Append("<p class=\"divide\">From here on for the next technician</p>\n");
    }

    private void Code()
    {
        if (report.Reported is null && report.Screen is null) return;
        Heading("Code");
        page.Append("<dl>\n");
        foreach (var (word, code) in new[] { ("Reported", report.Reported), ("This disk would show", report.Screen) })
        {
            if (code is null) continue;
            var name = code.Code is null || code.Code == code.Input ? "" : $" = {code.Code}";
            var status = code.Name is null ? "" : $" ({code.Name})";
            page.Append(
                CultureInfo.InvariantCulture,
                $"<dt>{word}</dt>\n<dd><code>{E($"{code.Input}{name}")}</code>{E(status)}");
            page.Append(CultureInfo.InvariantCulture, $"<br>{E(code.Meaning ?? "keel knows no such code.")}</dd>\n");
        }

        page.Append("</dl>\n");
    }

    private void Findings()
    {
        if (report.Before.Findings.Count == 0) return;
        Heading("Findings");
        Table(["Finding", "Where", "Weight", "What was seen"], report.Before.Findings.Select(finding => (string[])
        [
            Code(finding.Id),
            E(finding.Link),
            E(finding.Severity),
            $"{E(finding.Summary)}<br><small>{E(finding.Evidence)}</small>"
        ]));
    }

    private void Steps()
    {
        var (plan, left) = (report.Before.Plan, report.Before.Left);
        if (plan.Count > 0)
        {
            Heading(report.After is null ? "Plan (nothing of it is written)" : "What was planned and written");
            page.Append("<ol>\n");
            foreach (var step in plan)
            {
                page.Append(CultureInfo.InvariantCulture, $"<li><strong>{E(step.Link)}:</strong> {E(step.Summary)}");
                Lines(step.Lines);
                page.Append("</li>\n");
            }

            page.Append("</ol>\n");
        }

        if (left.Count == 0) return;
        Heading("Left as it is");
        page.Append("<ul>\n");
        foreach (var one in left)
        {
            page.Append(CultureInfo.InvariantCulture, $"<li>{Code(one.Finding)}: {E(one.Why)}<br>{E(one.Todo)}</li>\n");
        }

        page.Append("</ul>\n");
    }

    private void Lines(IReadOnlyList<LineDocument> lines)
    {
        if (lines.Count == 0) return;
        page.Append("\n<ul>\n");
        foreach (var line in lines)
        {
            var kind = line.Loss is null ? "" : " class=\"lost\"";
            page.Append(CultureInfo.InvariantCulture, $"<li{kind}>{E(line.Text)}</li>\n");
        }

        page.Append("</ul>\n");
    }

    private void Repairs()
    {
        if (report.Repairs.Count == 0) return;
        Heading("Repairs of this disk in the logbook");
        Table(["Repair", "Written", "State", "Steps", "Bytes"], report.Repairs.Select(repair => (string[])
        [
            Code(repair.Id),
            Time(repair.Written),
            E(repair.State),
            string.Join("<br>", repair.Steps.Select(step => E($"{step.Link}: {step.Summary}"))),
            string.Join("<br>", repair.Disks.Select(disk => E($"{disk.Bytes} in {disk.Ranges} places of {disk.Path}")))
        ]));
        if (report.Repairs.All(repair => repair.State != "done")) return;
        page.Append("<p>To take the last one back, byte for byte:</p>\n");
        page.Append(CultureInfo.InvariantCulture, $"<pre><code>{E(report.UndoCommand)}</code></pre>\n");
    }

    private void Chain()
    {
        Heading(report.After is null ? "The chain" : "The chain, before and after");
        string[] heads = report.After is null ? ["Link", "State", "What was seen"] : ["Link", "Before", "After"];
        Table(heads, report.Chain.Select(link => report.After is null
            ? (string[])[E(link.Link), E(link.Before), E(link.Seen)]
            : [E(link.Link), $"{E(link.Before)}<br><small>{E(link.Seen)}</small>", Now(link)]));
    }

    private static string Now(ReportLinkDocument link) =>
        link.After is null ? "" : $"{E(link.After)}<br><small>{E(link.SeenAfter)}</small>";

    private void Machine()
    {
        Heading("Machine and disks");
        page.Append(CultureInfo.InvariantCulture, $"<p>Firmware: {E(report.Machine.Firmware.ToUpperInvariant())}, ");
        page.Append(CultureInfo.InvariantCulture, $"{E(report.Machine.FirmwareReason)}.</p>\n");
        foreach (var disk in report.Machine.Disks)
        {
            var where = disk.Inside is null ? disk.Path : $"{disk.Path}, {disk.Inside}";
            page.Append(
                CultureInfo.InvariantCulture,
                $"<h3>{E(where)}: {Sizes.Text(disk.Size)}, {E(disk.Scheme.ToUpperInvariant())}, {E(disk.Identity)}</h3>\n");
            Table(["Volume", "Type", "File system", "Size", "Role", "Windows"], disk.Partitions.Select(part => (string[])
            [
                $"{part.Number}",
                E(part.Type),
                E(part.Label.Length > 0 ? $"{part.FileSystem}, {part.Label}" : part.FileSystem),
                Sizes.Text(part.Size),
                E(string.Join(", ", part.Roles)),
                string.Join("<br>", part.Installations.Select(one => E($"{one.Product} in {one.Folder}, build {one.Build}")))
            ]));
            foreach (var part in disk.Partitions.Where(part => part.Encryption is not null))
            {
                page.Append(
                    CultureInfo.InvariantCulture,
                    $"<p>Volume {part.Number} is encrypted: {E(part.Encryption!.Says)}.</p>\n");
            }
        }
    }

    private void History()
    {
        if (report.History.Count == 0) return;
        Heading("What the machine remembers (its own clock; never proof)");
        Table(["Time", "What", "From"], report.History.Select(moment => (string[])
        [
            moment.Time?.ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture) ?? "",
            E(moment.Says),
            E(moment.Source)
        ]));
    }

    private static string Code(string text) => $"<code>{E(text)}</code>";

    private void Heading(string text) => page.Append(CultureInfo.InvariantCulture, $"<h2>{E(text)}</h2>\n");

    private void List(string heading, IReadOnlyList<string> lines)
    {
        if (lines.Count == 0) return;
        page.Append(CultureInfo.InvariantCulture, $"<h2>{E(heading)}</h2>\n<ul>\n");
        foreach (var line in lines) page.Append(CultureInfo.InvariantCulture, $"<li>{E(line)}</li>\n");
        page.Append("</ul>\n");
    }

    /// <summary>Cells are marked up already.</summary>
    private void Table(string[] heads, IEnumerable<string[]> rows)
    {
        page.Append("<div class=\"wide\" tabindex=\"0\">\n<table>\n<thead><tr>");
        foreach (var head in heads) page.Append(CultureInfo.InvariantCulture, $"<th scope=\"col\">{E(head)}</th>");
        page.Append("</tr></thead>\n<tbody>\n");
        foreach (var row in rows)
        {
            page.Append("<tr>");
            foreach (var cell in row) page.Append(CultureInfo.InvariantCulture, $"<td>{cell}</td>");
            page.Append("</tr>\n");
        }

        page.Append("</tbody>\n</table>\n</div>\n");
    }
}
