using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Errors;

namespace Keel.Cli.Commands;

/// <summary>keel survey DISK</summary>
internal static class SurveyCommand
{
    public static Command Create(CommonOptions common)
    {
        var options = new MachineOptions();
        var command = new Command("survey", "What is on a disk, and how it starts.");
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            using var machine = options.Open(parsed);
            var output = common.OutputOf(parsed);
            var cutOff = new CutOffRepairs(output, common.OpenLogbook(parsed)).Tell(machine);
            new SurveyView(output).Show(machine, cutOff);
            common.TellReads(parsed, machine);
            return cutOff is not null ? StoppedHalfwayException.Code : SurveyView.HasNoTable(machine) ? 1 : 0;
        });
        return command;
    }
}
