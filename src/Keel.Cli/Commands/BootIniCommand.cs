using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Requests;

namespace Keel.Cli.Commands;

/// <summary>keel bootini list | check | rebuild | add | drop | change | prefer | wait</summary>
internal static class BootIniCommand
{
    public static Command Create(CommonOptions common) =>
        new("bootini", "The list of systems of an NT 5 machine: what the older loader starts, and from where.")
        {
            List(common),
            Check(common),
            Rebuild(common),
            Add(common),
            Drop(common),
            Change(common),
            Prefer(common),
            Wait(common)
        };

    private static Argument<string> Line() => new("LINE") { Description = "the line's number, or its title" };

    private static Option<string?> Title() => new("--title") { Description = "what the menu shows", HelpName = "TITLE" };

    private static Option<string?> Switches() =>
        new("--switches") { Description = "what stands behind the title, in quotes", HelpName = "SWITCHES" };

    private static Command List(CommonOptions common)
    {
        var options = new MachineOptions(common, isDiskNeeded: true);
        var command = new Command("list", "The lines, each with the volume that it leads to.");
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            using var machine = options.Open(parsed);
            new BootIniView(common.OutputOf(parsed)).Show(machine, BootListRequests.Open(machine));
            return 0;
        });
        return command;
    }

    private static Command Check(CommonOptions common)
    {
        var options = new MachineOptions(common, isDiskNeeded: true);
        var command = new Command("check", "Whether each line leads to a Windows that is there.");
        options.AddTo(command);
        command.SetAction(parsed =>
        {
            using var machine = options.Open(parsed);
            return new BootIniView(common.OutputOf(parsed)).Check(machine) ? 0 : 1;
        });
        return command;
    }

    private static Command Rebuild(CommonOptions common)
    {
        var writing = new WritingOptions(common, isDiskNeeded: true);
        var command = new Command(
            "rebuild",
            "Build the list anew from the installations found; titles, switches and lines of other systems are kept.");
        writing.AddTo(command);
        command.SetAction(parsed => writing.Run(parsed, machine =>
        {
            var questions = new InstallationQuestions(
                common.OutputOf(parsed),
                BootListRequests.Installations(machine),
                machine.IsListed)
            {
                TakesAll = writing.IsAgreed(parsed) || !Output.CanAsk
            };
            return BootListRequests.Rebuild(machine, questions.IsTaken);
        }));
        return command;
    }

    private static Command Add(CommonOptions common)
    {
        var writing = new WritingOptions(common, isDiskNeeded: true);
        var target = new Argument<string>("TARGET")
        {
            Description = @"a volume with a folder (2:\WINDOWS), an ARC path, or a file with a boot sector"
        };
        var title = Title();
        var switches = Switches();
        var command = new Command("add", "A new line at the end.") { target, title, switches };
        writing.AddTo(command);
        command.SetAction(parsed => writing.Run(parsed, machine =>
        {
            var words = BootListRequests.TargetOf(machine, parsed.GetValue(target)!);
            var shown = parsed.GetValue(title) ?? words;
            return BootListRequests.Change(machine, list =>
            {
                list.Add(words, Clean(shown), Clean(parsed.GetValue(switches) ?? ""));
                return Remark.Of("step.add-entry", Fact.Title.Is(shown));
            });
        }));
        return command;
    }

    private static Command Drop(CommonOptions common)
    {
        var writing = new WritingOptions(common, isDiskNeeded: true);
        var line = Line();
        var evenLast = new Option<bool>("--even-last") { Description = "also where no line would be left" };
        var command = new Command("drop", "Take a line out.") { line, evenLast };
        writing.AddTo(command);
        command.SetAction(parsed => writing.Run(parsed, machine => BootListRequests.Change(machine, list =>
        {
            var dropped = BootListRequests.Pick(list, parsed.GetValue(line)!);
            if (list.Lines.Count == 1 && !parsed.GetValue(evenLast))
            {
                throw new RefusedException(
                    "Nothing was written.",
                    $"\"{dropped.Title}\" is the last line of boot.ini.",
                    "If that is meant, run the same command with --even-last.");
            }

            list.Drop(dropped);
            return Remark.Of("step.drop-line", Fact.Title.Is(dropped.Title ?? dropped.Target));
        })));
        return command;
    }

    private static Command Change(CommonOptions common)
    {
        var writing = new WritingOptions(common, isDiskNeeded: true);
        var line = Line();
        var target = new Option<string?>("--target")
        {
            Description = @"what it starts: 2:\WINDOWS, an ARC path, or a file",
            HelpName = "TARGET"
        };
        var title = Title();
        var switches = Switches();
        var command = new Command("change", "Change a line; what is not named stays.") { line, target, title, switches };
        writing.AddTo(command);
        command.SetAction(parsed => writing.Run(parsed, machine =>
        {
            var words = parsed.GetValue(target) is { } named ? BootListRequests.TargetOf(machine, named) : null;
            return BootListRequests.Change(machine, list =>
            {
                var changed = BootListRequests.Pick(list, parsed.GetValue(line)!);
                list.Change(changed, changed with
                {
                    Target = words ?? changed.Target,
                    Title = parsed.GetValue(title) is { } shown ? Clean(shown) : changed.Title,
                    Switches = parsed.GetValue(switches) is { } given ? Clean(given) : changed.Switches
                });
                return Remark.Of("step.change-line", Fact.Title.Is(changed.Title ?? changed.Target));
            });
        }));
        return command;
    }

    private static Command Prefer(CommonOptions common)
    {
        var writing = new WritingOptions(common, isDiskNeeded: true);
        var line = Line();
        var command = new Command("prefer", "Start a line when nobody chooses.") { line };
        writing.AddTo(command);
        command.SetAction(parsed => writing.Run(parsed, machine => BootListRequests.Change(machine, list =>
        {
            var preferred = BootListRequests.Pick(list, parsed.GetValue(line)!);
            list.Prefer(preferred);
            return Remark.Of("step.prefer", Fact.Title.Is(preferred.Title ?? preferred.Target));
        })));
        return command;
    }

    private static Command Wait(CommonOptions common)
    {
        const int longest = 999;
        var writing = new WritingOptions(common, isDiskNeeded: true);
        var seconds = new Argument<int>("SECONDS") { Description = "how long the menu waits; -1 for ever" };
        seconds.Validators.Add(result =>
        {
            if (result.GetValueOrDefault<int>() is < -1 or > longest) result.AddError($"The menu waits -1 to {longest} seconds.");
        });
        var command = new Command("wait", "How long the menu waits.") { seconds };
        writing.AddTo(command);
        command.SetAction(parsed => writing.Run(parsed, machine => BootListRequests.Change(machine, list =>
        {
            list.Wait(parsed.GetValue(seconds));
            return Remark.Of("step.menu-waits", Fact.Seconds.Is(parsed.GetValue(seconds)));
        })));
        return command;
    }

    /// <summary>A line of the list has no room for line ends and quotes.</summary>
    private static string Clean(string text) => text.IndexOfAny(['\r', '\n', '"']) < 0
        ? text
        : throw new WrongUsageException(
            "The text has a quote or a line end in it.",
            "A title stands in quotes, and a line of boot.ini is one line.",
            "Leave them out.");
}
