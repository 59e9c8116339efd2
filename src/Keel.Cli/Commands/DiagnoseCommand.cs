using System.CommandLine;
using Keel.Cli.Views;
using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Mending;

namespace Keel.Cli.Commands;

/// <summary>keel diagnose DISK [--code CODE]</summary>
internal static class DiagnoseCommand
{
    public static Command Create(CommonOptions common)
    {
        var options = new MachineOptions(common);
        var code = CommonOptions.Code();
        var surface = new Option<bool>("--surface")
        {
            Description = "read every block of every start file, to find where the disk fails"
        };
        var all = CommonOptions.All("every link by itself, and every finding");
        var command = new Command("diagnose", "Walk the boot chain: what is broken, and what would mend it. Writes nothing.")
        {
            code,
            surface,
            all
        };
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            using var machine = options.Open(parsed);
            var output = common.OutputOf(parsed);
            if (parsed.GetValue(surface)) machine.ScanStartFiles(output.Progress("reading"));
            var diagnosis = output.Working(
                "walking the chain",
                () => Diagnosis.Of(machine, parsed.GetValue(code), RepairTerms.Usual));
            var cutOff = new CutOffRepairs(output, common.OpenLogbook(parsed)).Tell(machine);
            new DiagnoseView(output, parsed.GetValue(all)).Show(diagnosis, cutOff);
            common.TellReads(parsed, machine);
            return cutOff is not null ? StoppedHalfwayException.Code : diagnosis.Plan.Before.Verdict == Verdict.Sound ? 0 : 1;
        });
        return command;
    }
}
