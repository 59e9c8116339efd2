using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Logbook;
using Keel.Core.Mending;
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
            HalvingFile? file = null;
            Halving? next = null;
            var code = writing.Run(parsed, machine =>
            {
                file = new HalvingFile(common.OpenLogbook(parsed).Path, machine.StartDisk.Layout.Identity);
                var programs = ProgramRequests.List(machine);
                next = Next(output, file, programs, parsed.GetValue(started), parsed.GetValue(anew));
                return PlanFor(machine, programs, next);
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

    private static Halving Next(
        Output output,
        HalvingFile file,
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

            var suspects = programs
                .Where(program => program.IsOn && !IsOfWindows(program))
                .Select(program => program.Id)
                .ToList();
            return suspects.Count > 0 ? Halving.Of(suspects) : throw new RefusedException(
                "Nothing was written.",
                "Nothing starts by itself but Windows' own services.",
                "Look elsewhere: 'keel history' tells what changed before the trouble began.");
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

    /// <summary>Services whose program lies in the folder of Windows are mostly its own, and many are needed.</summary>
    internal static bool IsOfWindows(StartupProgram program) => program.Place == StartupPlace.Service
        && (program.File is null || program.File.Contains(@"\System32\", StringComparison.OrdinalIgnoreCase)
            || program.File.Contains(@"\SysWOW64\", StringComparison.OrdinalIgnoreCase));

    private static Plan PlanFor(Machine machine, IReadOnlyList<StartupProgram> programs, Halving halving)
    {
        var off = programs.Where(program => halving.Off.Contains(program.Id)).ToList();
        var on = programs.Where(program => halving.All.Contains(program.Id) && !halving.Off.Contains(program.Id)).ToList();
        var summary = halving.IsFound
            ? Remark.Of("step.halving-found", Fact.Title.Is(NameOf(halving.Suspects[0])))
            : halving.IsNone ? Remark.Of("step.halving-none")
            : Remark.Of("step.halving", Fact.EntryCount.Is(halving.Off.Count), Fact.SuspectCount.Is(halving.Suspects.Count));
        return ProgramRequests.Change(machine, off, on, summary);
    }

    /// <summary>The name in an id.</summary>
    internal static string NameOf(string id) => id[(id.LastIndexOf('|') + 1)..];
}
