using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Cli.Wording;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Firmware;
using Keel.Core.Logbook;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Requests;

namespace Keel.Cli.Commands;

/// <summary>keel firmware list | add | drop | order | next</summary>
internal static class FirmwareCommand
{
    private const string AskedFor = "asked-for";

    public static Command Create(CommonOptions common) =>
        new("firmware", "The start entries that a UEFI firmware keeps: order, targets, the next start.")
        {
            List(common),
            Add(common),
            Drop(common),
            Order(common),
            Next(common)
        };

    private static Command List(CommonOptions common)
    {
        var disks = new Argument<string[]>("DISK")
        {
            Description = "the machine's disks, to see whether the targets are there",
            Arity = ArgumentArity.ZeroOrMore
        };
        var folder = CommonOptions.Variables();
        var command = new Command("list", "The start order, each entry's target, and whether it is there.") { disks, folder };
        command.SetAction(parsed =>
        {
            using var machine = Open(common, parsed, parsed.GetValue(disks)!, parsed.GetValue(folder));
            new FirmwareView(common.OutputOf(parsed)).ShowList(machine);
            return 0;
        });
        return command;
    }

    private static Command Add(CommonOptions common)
    {
        var disk = CommonOptions.Disk();
        var title = new Option<string>("--title")
        {
            Description = "what the firmware's menu shows",
            DefaultValueFactory = _ => FirmwareSteps.UsualTitle
        };
        var last = new Option<bool>("--last") { Description = "last in the start order; else first" };
        var command = new Command("add", "Add an entry for the Windows boot manager on the disk's system volume.")
        {
            disk,
            title,
            last
        };
        return Writing(
            command,
            common,
            parsed => [parsed.GetValue(disk)!],
            (parsed, machine) => FirmwareSteps.AddWindows(machine, parsed.GetValue(title)!, parsed.GetValue(last), AskedFor));
    }

    private static Command Drop(CommonOptions common)
    {
        var entries = Entries("entries by number or title; gone for all whose target is gone");
        var with = CommonOptions.With();
        var last = new Option<bool>("--even-last") { Description = "also the last entry that starts Windows" };
        return Writing(
            new Command("drop", "Drop entries, also several at once.") { entries, with, last },
            common,
            parsed => parsed.GetValue(with)!,
            (parsed, machine) => FirmwareRequests.Drop(machine, parsed.GetValue(entries)!, parsed.GetValue(last), AskedFor));
    }

    private static Command Order(CommonOptions common)
    {
        var entries = Entries("the entries that come first, in this order");
        return Writing(
            new Command("order", "Change the start order.") { entries },
            common,
            _ => [],
            (parsed, machine) => FirmwareRequests.Order(machine, parsed.GetValue(entries)!, AskedFor));
    }

    private static Command Next(CommonOptions common)
    {
        var entry = new Argument<string>("ENTRY") { Description = "an entry by number or title" };
        return Writing(
            new Command("next", "Start an entry the next time, and that time alone.") { entry },
            common,
            _ => [],
            (parsed, machine) => FirmwareRequests.Next(machine, parsed.GetValue(entry)!, AskedFor));
    }

    private static Argument<string[]> Entries(string description) =>
        new("ENTRY") { Description = description, Arity = ArgumentArity.OneOrMore };

    /// <summary>
    /// Gives a command what every one that writes variables has, and its way: plan, consent, record, write, list.
    /// </summary>
    private static Command Writing(
        Command command,
        CommonOptions common,
        Func<ParseResult, string[]> disks,
        Func<ParseResult, Machine, Step> act)
    {
        var (folder, yes, preview) = (CommonOptions.Variables(), CommonOptions.Yes(), CommonOptions.Preview());
        command.Options.Add(folder);
        command.Options.Add(yes);
        command.Options.Add(preview);
        command.SetAction(parsed =>
        {
            var output = common.OutputOf(parsed);
            var view = new FirmwareView(output);
            using var machine = Open(common, parsed, disks(parsed), parsed.GetValue(folder));
            var logbook = common.OpenLogbook(parsed);
            new CutOffRepairs(output, logbook).Refuse(machine);
            var step = act(parsed, machine);
            view.ShowPlan(step, machine);
            if (parsed.GetValue(preview))
            {
                view.Finish(machine, step, record: null, isPreview: true);
                return 0;
            }

            var record = new Repair(output, logbook) { Yes = parsed.GetValue(yes) }
                .Carry(machine, step, () => view.ShowChanges(machine));
            using var after = Open(common, parsed, disks(parsed), parsed.GetValue(folder));
            view.Finish(after, step, record, isPreview: false);
            return 0;
        });
        return command;
    }

    private static Machine Open(CommonOptions common, ParseResult parsed, IReadOnlyList<string> disks, string? folder)
    {
        var machine = Machine.Open(disks, FirmwareVariables.Open(folder ?? FirmwareVariables.UsualFolder), startsThrough: null);
        var commands = common.OutputOf(parsed).Commands;
        foreach (var (typed, opened) in disks.Zip(machine.Disks)) commands.Typed(typed, opened.Path);
        if (folder is not null) commands.Typed(folder, machine.Variables!.Folder);
        return machine;
    }
}
