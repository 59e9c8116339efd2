using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Core.Mending;
using Keel.Core.Requests;

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
            var questions = new InstallationQuestions(output, machine.StoreInstallations, machine.IsListed)
            {
                TakesAll = target.Yes(parsed) || !Output.CanAsk
            };
            return StoreRequests.Rebuild(
                machine,
                target.Volume(parsed),
                parsed.GetValue(fresh),
                questions.IsTaken,
                RepairTerms.Usual);
        }));
        return command;
    }
}
