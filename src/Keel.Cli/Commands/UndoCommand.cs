using System.CommandLine;
using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Cli.Wording;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Logbook;

namespace Keel.Cli.Commands;

/// <summary>keel undo [DISK] [REPAIR]</summary>
internal static class UndoCommand
{
    public static Command Create(CommonOptions common)
    {
        var disk = CommonOptions.MayBeLeftOut();
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
        var number = new Argument<int?>("REPAIR")
        {
            Description = "a repair by its number in the list; else the newest that stands on the disk",
            Arity = ArgumentArity.ZeroOrOne
        };
        var elsewhere = FromElsewhere();
        var alone = new Option<bool>("--alone") { Description = "only what is named, where the repair wrote more" };
        var variables = CommonOptions.Variables();
        var command = new Command("undo", "Take the last repair of a disk back, to the byte.")
        {
            disk,
            number,
            with,
            yes,
            preview,
            anyway,
            elsewhere,
            record,
            alone,
            variables
        };
        var opening = new DiskOptions();
        opening.AddTo(command, withInside: false);
        command.SetAction(parsed =>
        {
            var output = common.OutputOf(parsed);
            var (named, repair) = Read(parsed.GetValue(disk), parsed.GetValue(number));
            var disks = new MachineOpening(output).DisksOf(named);
            string[] others = [.. disks.Skip(1), .. parsed.GetValue(with)!];
            return Run(output, common.OpenLogbook(parsed), new UndoRequest(disks[0], others)
            {
                Terms = opening.Of(parsed, output),
                Number = repair,
                Record = parsed.GetValue(record),
                IsAlone = parsed.GetValue(alone),
                EvenIfChanged = parsed.GetValue(anyway),
                EvenFromElsewhere = parsed.GetValue(elsewhere),
                Variables = parsed.GetValue(variables),
                Yes = parsed.GetValue(yes),
                IsPreview = parsed.GetValue(preview)
            });
        });
        return command;
    }

    /// <summary>Shared with the completion of what was cut off.</summary>
    public static Option<bool> FromElsewhere() => new("--even-from-elsewhere")
    {
        Description = "with --yes: a record too that was not written on this computer, or from this stick"
    };

    /// <summary>A number alone is that of a repair, unless a file has that name.</summary>
    private static (string? Disk, int? Number) Read(string? disk, int? number) =>
        number is null && int.TryParse(disk, out var alone) && !Path.Exists(disk) ? (null, alone) : (disk, number);

    /// <summary>Takes a repair back: shows it, asks, writes, and gives the exit code.</summary>
    internal static int Run(Output output, RepairLogbook logbook, UndoRequest request)
    {
        using var interrupts = new Interrupts(output);
        using var target = RecordTarget.Open(request.Disk, request.With, request.Terms);
        output.Commands.Typed(request.Disk, target.Path);
        var choice = new UndoChoice(output, logbook, target)
        {
            Record = request.Record,
            Number = request.Number,
            EvenIfChanged = request.EvenIfChanged
        };
        var chosen = choice.Choose();
        var work = target.Work(chosen, IsStanding, request.IsAlone, request.Variables, output.Commands) with
        {
            EvenIfChanged = request.EvenIfChanged
        };
        RefuseNothing(work);
        Commit.Check(work);
        var view = new LogbookView(output);
        var heading = $"{(request.IsPreview ? "Would put" : "Puts")} back what this repair changed:";
        if (!output.IsJson || request.IsPreview) view.ShowOne(chosen, heading);
        view.ShowDifferences(work);
        if (request.IsPreview) return 0;
        choice.AskWhereInDoubt(work, request.Yes);
        var trust = new RecordTrust(output, logbook) { Yes = request.Yes, EvenFromElsewhere = request.EvenFromElsewhere };
        trust.Require(target, work);
        var consent = new Consent(output, request.Yes);
        consent.Agree("Take it back?", () => ShowRanges(consent, work));
        var own = Carry(output, logbook, target, work);
        view.Undone(work, own, target.Path);
        return 0;
    }

    private static void RefuseNothing(UndoTargets work)
    {
        if (work.Parts.Count > 0) return;
        throw new WrongUsageException(
            "There is nothing to put back.",
            "None of the disks of that repair is here.",
            "Name its disk, and the others with --with.");
    }

    /// <summary>What an undo puts back: a part that was written, or that is between two states.</summary>
    internal static bool IsStanding(RecordState state) => state != RecordState.Undone;

    private static void ShowRanges(Consent consent, UndoTargets work)
    {
        foreach (var fit in work.Fits) consent.ShowRanges(fit.Disk.Path, [.. fit.Recorded.Ranges.Select(range => range.Range)]);
    }

    private static RepairRecord? Carry(Output output, RepairLogbook logbook, RecordTarget target, UndoTargets work)
    {
        try
        {
            output.IsWriting = true;
            var opener = new DiskOpening(target.Terms);
            var commit = new Commit(logbook, opener.OpenForWriting, TimeProvider.System, ProgramVersion.Text);
            var own = output.Working("putting back what was there", () => commit.Undo(work));
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
        finally
        {
            output.IsWriting = false;
        }
    }
}
