using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Logbook;

namespace Keel.Cli.Commands;

/// <summary>keel undo DISK</summary>
internal static class UndoCommand
{
    public static Command Create(CommonOptions common)
    {
        var disk = CommonOptions.Disk();
        var with = CommonOptions.With();
        var yes = CommonOptions.Yes();
        var preview = CommonOptions.Preview();
        var anyway = new Option<bool>("--even-if-changed")
        {
            Description = "overwrite what other programs have written there since; it is saved first"
        };
        var record = new Option<string?>("--record")
        {
            Description = "this repair, by its id in the logbook; else the newest that stands on the disk",
            HelpName = "ID"
        };
        var alone = new Option<bool>("--alone") { Description = "only what is named, where the repair wrote more" };
        var variables = CommonOptions.Variables();
        var command = new Command("undo", "Take the last repair of a disk back, to the byte.")
        {
            disk,
            with,
            yes,
            preview,
            anyway,
            record,
            alone,
            variables
        };
        command.SetAction(parsed =>
        {
            var output = common.OutputOf(parsed);
            using var target = RecordTarget.Open(parsed.GetValue(disk)!, parsed.GetValue(with)!);
            var logbook = common.OpenLogbook(parsed);
            var choice = new UndoChoice(output, logbook, target)
            {
                Record = parsed.GetValue(record),
                EvenIfChanged = parsed.GetValue(anyway)
            };
            var chosen = choice.Choose();
            var work = target.Work(chosen, IsStanding, parsed.GetValue(alone), parsed.GetValue(variables)) with
            {
                EvenIfChanged = parsed.GetValue(anyway)
            };
            RefuseNothing(work);
            Commit.Check(work);
            var view = new LogbookView(output);
            var isPreview = parsed.GetValue(preview);
            var heading = $"{(isPreview ? "Would put" : "Puts")} back what this repair changed:";
            if (!output.IsJson || isPreview) view.ShowOne(chosen, heading);
            view.ShowDifferences(work);
            if (isPreview) return 0;
            choice.AskWhereInDoubt(work, parsed.GetValue(yes));
            var consent = new Consent(output, parsed.GetValue(yes));
            consent.Agree("Take it back?", () => ShowRanges(consent, work));
            var own = Carry(output, logbook, target, work);
            view.Undone(work, own, target.Path);
            return 0;
        });
        return command;
    }

    private static void RefuseNothing(TakeBack work)
    {
        if (work.Parts.Count > 0) return;
        throw new WrongUsageException(
            "There is nothing to put back.",
            "None of the disks of that repair is here.",
            "Name its disk, and the others with --with.");
    }

    /// <summary>What an undo puts back: a part that was written, or that is between two states.</summary>
    internal static bool IsStanding(RecordState state) => state != RecordState.Undone;

    private static void ShowRanges(Consent consent, TakeBack work)
    {
        foreach (var fit in work.Fits) consent.ShowRanges(fit.Disk.Path, [.. fit.Recorded.Ranges.Select(range => range.Range)]);
    }

    private static RepairRecord? Carry(Output output, RepairLogbook logbook, RecordTarget target, TakeBack work)
    {
        try
        {
            var own = new Commit(logbook, DiskFile.OpenForWriting, TimeProvider.System, ProgramVersion.Text).Undo(work);
            output.Written = $"Repair {work.Record.Document.Id} is taken back, and that was read back.";
            return own;
        }
        catch (StoppedHalfwayException e)
        {
            throw new StoppedHalfwayException(e.What, e.Why, "Nothing is lost. To go on, type:", e)
            {
                Commands = [output.Commands.Undo(target.Path)]
            };
        }
    }
}
