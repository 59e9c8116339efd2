using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Chain;

namespace Keel.Cli.Commands;

/// <summary>keel survey DISK</summary>
internal static class SurveyCommand
{
    public static Command Create(CommonOptions common)
    {
        var disk = CommonOptions.Disk();
        var with = CommonOptions.With();
        var command = new Command("survey", "What is on a disk, and how it starts.") { disk, with };
        command.SetAction(parsed =>
        {
            using var machine = Machine.Open([parsed.GetValue(disk)!, .. parsed.GetValue(with)!]);
            new SurveyView(Screen.For(parsed, common)).Show(machine);
            common.TellReads(parsed, machine);
            return 0;
        });
        return command;
    }
}
