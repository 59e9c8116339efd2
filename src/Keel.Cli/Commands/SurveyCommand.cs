using System.CommandLine;
using Keel.Cli.Views;
using Keel.Core.Disks;
using Keel.Core.Errors;

namespace Keel.Cli.Commands;

/// <summary>keel survey [DISK]</summary>
internal static class SurveyCommand
{
    public static Command Create(CommonOptions common)
    {
        var options = new MachineOptions(common);
        var command = new Command("survey", "What is on the disks, and how they start.");
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            var output = common.OutputOf(parsed);
            if (!options.IsNamed(parsed) && !output.IsJson) new ComputerView(output).Show(ComputerDisks.All());
            using var machine = options.Open(parsed);
            machine.RequireLibraries();
            var cutOff = new CutOffRepairs(output, common.OpenLogbook(parsed)).Tell(machine);
            new SurveyView(output).Show(machine, cutOff);
            common.TellReads(parsed, machine);
            return cutOff is not null ? StoppedHalfwayException.Code : SurveyView.HasNoTable(machine) ? 1 : 0;
        });
        return command;
    }
}
