using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
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
        var format = new Option<bool>("--new-file-system")
        {
            Description = "with --yes: agree also to the steps that make a new file system"
        };
        var installation = new Option<int?>("--installation")
        {
            Description = "which Windows an entry means that fits several: its number in their list",
            HelpName = "N"
        };
        var all = CommonOptions.All("every link by itself, and every finding");
        var command = new Command("mend", "Mend the boot chain: plan, ask, write, verify. 'keel undo' takes it back.")
        {
            code,
            yes,
            preview,
            foreign,
            format,
            installation,
            all
        };
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            var output = common.OutputOf(parsed);
            using var machine = options.Open(parsed);
            var terms = RepairTerms.Usual with
            {
                ReplaceForeign = parsed.GetValue(foreign),
                FittingInstallation = parsed.GetValue(installation)
            };
            var diagnosis = output.Working("walking the chain", () => Diagnosis.Of(machine, parsed.GetValue(code), terms));
            if (!parsed.GetValue(yes) && EntryQuestion.Ask(output, diagnosis.Plan) is { } chosen)
            {
                terms = terms with { FittingInstallation = chosen };
                diagnosis = output.Working("planning", () => Diagnosis.Of(machine, parsed.GetValue(code), terms));
            }

            return new Repair(output, common.OpenLogbook(parsed))
            {
                Yes = parsed.GetValue(yes),
                NewFileSystem = parsed.GetValue(format),
                Preview = parsed.GetValue(preview)
            }
                .Run(machine, diagnosis, terms, new MendView(output, parsed.GetValue(all)));
        });
        return command;
    }
}
