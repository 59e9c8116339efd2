using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Errors;
using Keel.Core.Logbook;
using Keel.Core.Requests;
using Keel.Core.Windows;

namespace Keel.Cli.Commands;

/// <summary>keel programs list | change | halve</summary>
internal static class ProgramsCommand
{
    public static Command Create(CommonOptions common) =>
        new("programs", "What starts by itself once Windows runs: programs of everybody and of each user, services.")
        {
            List(common),
            Change(common),
            Halve(common)
        };

    private static Command List(CommonOptions common)
    {
        var options = new MachineOptions(common, isDiskNeeded: true);
        var all = new Option<bool>("--all") { Description = "also the services of Windows itself" };
        var command = new Command("list", "Each with what it starts, who made it, and since when it is there.") { all };
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            using var machine = options.Open(parsed);
            new ProgramsView(common.OutputOf(parsed)).Show(machine, ProgramRequests.List(machine), parsed.GetValue(all));
            return 0;
        });
        return command;
    }

    private static Command Change(CommonOptions common)
    {
        var writing = new WritingOptions(common, isDiskNeeded: true);
        var name = new Argument<string>("NAME") { Description = "the number in the list, or the name" };
        var state = new Argument<string>("STATE") { Description = "on or off" };
        state.TakesOneOf("on", "off");
        var command = new Command("change", "Switch one off, so that Windows does not start it, or on again.") { name, state };
        writing.AddTo(command);
        command.SetAction(parsed => writing.Run(
            parsed,
            machine => ProgramRequests.Change(machine, parsed.GetValue(name)!, parsed.GetValue(state) == "on")));
        return command;
    }

    private static Command Halve(CommonOptions common)
    {
        var writing = new WritingOptions(common, isDiskNeeded: true);
        var started = new Option<string?>("--started")
        {
            Description = "yes or no: whether Windows worked with those off",
            HelpName = "ANSWER"
        };
        started.TakesOneOf("yes", "no");
        var anew = new Option<bool>("--anew") { Description = "forget the search that is under way, and begin another" };
        var command = new Command("halve", "Find the one that keeps Windows from working: half of them off, start by start.")
        {
            started,
            anew
        };
        writing.AddTo(command);
        command.SetAction(parsed =>
        {
            var output = common.OutputOf(parsed);
            SuspectSearchFile? file = null;
            SuspectSearch? next = null;
            var code = writing.Run(parsed, machine =>
            {
                file = new SuspectSearchFile(common.OpenLogbook(parsed).Path, machine.StartDisk.Layout.Identity);
                var programs = ProgramRequests.List(machine);
                next = Next(output, file, programs, parsed.GetValue(started), parsed.GetValue(anew));
                return next.PlanFor(machine, programs);
            });
            var isDone = output.Written is not null || next is { IsFound: true } && !parsed.GetValue<bool>("--preview");
            if (!isDone || next is null) return code;
            if (next.IsFound || next.IsNone) file!.Forget();
            else file!.Write(next);
            new ProgramsView(output).TellHalving(next);
            return code;
        });
        return command;
    }

    private static SuspectSearch Next(
        Output output,
        SuspectSearchFile file,
        IReadOnlyList<StartupProgram> programs,
        string? started,
        bool anew)
    {
        if (anew || file.Read() is not { } known)
        {
            if (started is not null)
            {
                throw new WrongUsageException(
                    "No search is under way for this disk.",
                    "Nothing is remembered in the logbook's folder.",
                    "Begin one: keel programs halve DISK");
            }

            return SuspectSearch.Among(programs);
        }

        if (started is null && !Output.CanAsk)
        {
            throw new WrongUsageException(
                $"A search is under way: {known.Off.Count} of {known.Suspects.Count} suspects are off.",
                "What came of the start has to be told.",
                "Run it with --started yes or --started no; --anew begins another search.");
        }

        return known.After(started is not null ? started == "yes" : HasWorked(output));
    }

    private static bool HasWorked(Output output) => output.Ask("Did Windows work with those off?", "[y]es / [n]o") == 'y';
}
