using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views;

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
            new SurveyView(Screen.For(parsed, common)).Show(machine);
            common.TellReads(parsed, machine);
            return 0;
        });
        return command;
    }
}
