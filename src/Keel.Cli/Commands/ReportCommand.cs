using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Views.Reports;
using Keel.Core.Chain;
using Keel.Core.Logbook;
using Keel.Core.Mending;

namespace Keel.Cli.Commands;

/// <summary>keel report [DISK] --out FILE</summary>
internal static class ReportCommand
{
    public const string FileWords = "a new file: .html for a page, .md for text, .json for data";

    public static Command Create(CommonOptions common)
    {
        var options = new MachineOptions(common);
        var code = CommonOptions.Code();
        var target = new Option<string>("--out") { Description = FileWords, HelpName = "FILE", Required = true };
        var ticket = Ticket();
        var command = new Command(
            "report",
            "Write the page for the ticket: verdict, chain, findings, repairs so far. Changes nothing on the disk.")
        {
            code,
            target,
            ticket
        };
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            var file = new ReportFile(parsed.GetValue(target)!);
            var output = common.OutputOf(parsed);
            using var machine = options.Open(parsed);
            var diagnosis = output.Working(
                "walking the chain",
                () => Diagnosis.Of(machine, parsed.GetValue(code), RepairTerms.Usual));
            var report = Write(output, common.OpenLogbook(parsed), file, diagnosis, after: null, parsed.GetValue(ticket));
            if (output.IsJson) KeelJson.Print(report, KeelJson.Default.ReportDocument);
            return diagnosis.Plan.Before.Verdict == Verdict.Sound ? 0 : 1;
        });
        return command;
    }

    public static Option<string?> Ticket() =>
        new("--ticket") { Description = "the number of the service ticket, for the head of the report", HelpName = "NUMBER" };

    /// <summary>Writes a report, and says where it is.</summary>
    public static ReportDocument Write(
        Output output,
        RepairLogbook logbook,
        ReportFile file,
        Diagnosis diagnosis,
        Diagnosis? after,
        string? ticket)
    {
        var report = new ReportMaking(output.Commands, logbook, TimeProvider.System).Of(diagnosis, after, ticket);
        file.Write(report);
        if (output.IsJson) return report;
        output.Paragraph(report.Verdict, style: "bold");
        output.Paragraph($"The report is in {file.Name}.");
        return report;
    }
}
