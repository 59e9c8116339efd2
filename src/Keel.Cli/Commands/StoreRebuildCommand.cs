using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Core.Mending;
using Keel.Core.Windows;

namespace Keel.Cli.Commands;

/// <summary>keel store rebuild</summary>
internal static class StoreRebuildCommand
{
    public static Command Create(CommonOptions common)
    {
        var target = new StoreTarget();
        var fresh = new Option<bool>("--fresh") { Description = "keep nothing of the old store" };
        var command = new Command(
            "rebuild",
            "Build the store anew from the installations found; titles, waiting time and other systems are kept.") { fresh };
        target.AddTo(command, writes: true);
        command.SetAction(parsed => target.Run(parsed, common, machine =>
        {
            var output = common.OutputOf(parsed);
            var everyOne = target.Yes(parsed) || !Output.CanAsk;
            return StoreRequests.Rebuild(
                machine,
                target.Volume(parsed),
                parsed.GetValue(fresh),
                (found, listed) => everyOne || Include(output, found, listed, ref everyOne),
                RepairTerms.Usual);
        }));
        return command;
    }

    private static bool Include(Output output, WindowsInstallation found, bool listed, ref bool everyOne)
    {
        var answer = output.Ask(
            $"List {found} of {found.Volume.DiskPath} ({(listed ? "already listed" : "new")}):",
            "[y]es / [n]o / [a]ll");
        everyOne = answer == 'a';
        return answer is 'y' or 'a';
    }
}
