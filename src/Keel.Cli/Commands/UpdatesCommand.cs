using System.CommandLine;
using Keel.Cli.Views;
using Keel.Core.Machines;
using Keel.Core.Windows.Updates;

namespace Keel.Cli.Commands;

/// <summary>keel updates list</summary>
internal static class UpdatesCommand
{
    public static Command Create(CommonOptions common) => new("updates", "The updates of a Windows: which, since when, how far.")
    {
        List(common)
    };

    private static Command List(CommonOptions common)
    {
        var options = new MachineOptions(common, isDiskNeeded: true);
        var volume = CommonOptions.Volume("the volume of the Windows; else that of the only one");
        var all = new Option<bool>("--all") { Description = "also those that a newer one took the place of" };
        var command = new Command("list", "Updates with their state, date and number, the youngest first.") { all, volume };
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            using var machine = options.Open(parsed);
            var windows = InstallationChoice.Of(machine, parsed.GetValue(volume));
            var updates = UpdatePackages.Read(Locks.FilesOf(windows.Volume), windows.Folder);
            new UpdatesView(common.OutputOf(parsed)).Show(machine, windows, updates, parsed.GetValue(all));
            return 0;
        });
        return command;
    }
}
