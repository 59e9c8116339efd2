using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Cli.Views.Reports;
using Keel.Core.Logbook;
using Keel.Core.Mending;

namespace Keel.Cli.Commands;

/// <summary>keel mend DISK [--code CODE]</summary>
internal static class MendCommand
{
    public static Command Create(CommonOptions common)
    {
        var options = new MachineOptions(common);
        var code = CommonOptions.Code();
        var yes = CommonOptions.Yes();
        var preview = CommonOptions.Preview();
        var foreign = CommonOptions.ReplaceForeign();
        var (format, session) = (NewFileSystem(), GiveUpSession());
        var installation = Installation();
        var (from, revision) = (SourceOptions.From(), SourceOptions.OtherRevision());
        var all = CommonOptions.All("every link by itself, and every finding");
        var report = Report();
        var ticket = ReportCommand.Ticket();
        var command = new Command("mend", "Mend the boot chain: plan, ask, write, verify. 'keel undo' takes it back.")
        {
            code,
            yes,
            preview,
            foreign,
            format,
            session,
            installation,
            from,
            revision,
            report,
            ticket,
            all
        };
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            var output = common.OutputOf(parsed);
            var file = parsed.GetValue(report) is { } path ? new ReportFile(path) : null;
            using var machine = options.Open(parsed);
            output.Commands.Sources = SourceOptions.Words(parsed.GetValue(from)!, parsed.GetValue(revision));
            var terms = RepairTerms.Usual with
            {
                ReplaceForeign = parsed.GetValue(foreign),
                GiveUpSession = parsed.GetValue(session),
                FittingInstallation = parsed.GetValue(installation),
                Sources = SourceOptions.Of(parsed.GetValue(from)!),
                OtherRevision = parsed.GetValue(revision)
            };
            var diagnosis = output.Working("walking the chain", () => Diagnosis.Of(machine, parsed.GetValue(code), terms));
            if (!parsed.GetValue(yes) && EntryQuestion.Ask(output, diagnosis.Plan) is { } chosen)
            {
                terms = terms with { FittingInstallation = chosen };
                diagnosis = output.Working("planning", () => Diagnosis.Of(machine, parsed.GetValue(code), terms));
            }

            var logbook = common.OpenLogbook(parsed);
            return new Repair(output, logbook)
            {
                Finished = (found, after) => WriteReport(output, logbook, file, found, after, parsed.GetValue(ticket)),
                Yes = parsed.GetValue(yes),
                Named = Named(parsed.GetValue(format), parsed.GetValue(session)),
                Preview = parsed.GetValue(preview)
            }
                .Run(machine, diagnosis, terms, new MendView(output, parsed.GetValue(all)));
        });
        return command;
    }

    private static Option<int?> Installation() => new("--installation")
    {
        Description = "which Windows an entry means that fits several",
        HelpName = "N"
    };

    private static Option<bool> NewFileSystem() => new("--new-file-system")
    {
        Description = "with --yes: also the steps that make a new file system"
    };

    private static Option<bool> GiveUpSession() => new("--give-up-session")
    {
        Description = "give up what is open in a hibernated Windows"
    };

    /// <summary>What is agreed to by its own option.</summary>
    private static List<StepConsent> Named(bool newFileSystem, bool session)
    {
        var named = new List<StepConsent>();
        if (newFileSystem) named.Add(StepConsent.NewFileSystem);
        if (session) named.Add(StepConsent.GivesUpSession);
        return named;
    }

    private static Option<string?> Report() => new("--report")
    {
        Description = "write the page for the ticket: " + ReportCommand.FileWords,
        HelpName = "FILE"
    };

    private static void WriteReport(
        Output output,
        RepairLogbook logbook,
        ReportFile? file,
        Diagnosis found,
        Diagnosis? after,
        string? ticket)
    {
        if (file is null) return;
        if (!output.IsJson) output.Line();
        ReportCommand.Write(output, logbook, file, found, after, ticket);
    }
}
