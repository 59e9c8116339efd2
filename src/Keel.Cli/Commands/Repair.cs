using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Cli.Wording;
using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Logbook;
using Keel.Core.Machines;
using Keel.Core.Mending;

namespace Keel.Cli.Commands;

/// <summary>What every writing command does with a plan: show, ask, write, walk again.</summary>
internal sealed class Repair(Output output, RepairLogbook logbook)
{
    public bool Yes { get; init; }

    /// <summary>For which steps that are agreed to by themselves --yes holds too.</summary>
    public IReadOnlyCollection<StepConsent> Named { get; init; } = [];

    public bool Preview { get; init; }

    /// <summary>Told at the end, of what was found, and of what was found after it was mended.</summary>
    public Action<Diagnosis, Diagnosis?>? Finished { get; init; }

    /// <summary>Carries a plan out, and gives the exit code.</summary>
    public int Run(Machine machine, Diagnosis diagnosis, RepairTerms terms, MendView view)
    {
        using var interrupts = new Interrupts(output);
        var cutOff = new CutOffRepairs(output, logbook);
        cutOff.Refuse(machine);
        view.ShowPlan(diagnosis, Preview);
        if (diagnosis.Plan is { IsRequest: true, Steps.Count: > 0, Changes.Any: false })
        {
            view.FinishUnchanged(diagnosis);
            return diagnosis.Plan.Before.Verdict == Verdict.Sound ? 0 : 1;
        }

        if (diagnosis.Plan.Steps.Count == 0 || Preview)
        {
            view.Finish(diagnosis, record: null, after: null);
            Finished?.Invoke(diagnosis, null);
            return diagnosis.Plan.Before.Verdict == Verdict.Sound ? 0 : 1;
        }

        PlainDisks.RefuseOthers(machine);
        AskAboutDisk(machine, diagnosis);
        var plan = new Consent(output, Yes, Named).Agree(diagnosis.Plan, view.ShowAgain);
        PlainDisks.RefuseOthers(machine);
        var record = Write(plan, machine);
        using var mended = machine.OpenAgain();
        var after = output.Working("walking the chain again", () => Diagnosis.Of(mended, reported: null, terms));
        view.Finish(diagnosis with { Plan = plan }, record, after);
        Finished?.Invoke(diagnosis with { Plan = plan }, after);
        return after.Plan.Before.Verdict == Verdict.Sound ? 0 : 1;
    }

    /// <summary>Writes what a plan changes; gives its record, or null where nothing differed.</summary>
    public RepairRecord? Write(Plan plan, Machine machine) =>
        Write(
            machine.Terms,
            plan.Changes,
            [.. plan.Steps.Select(step => new RecordedStep(step.Link.Id(), step.FindingId, Words.Of(step.Summary)))],
            output.Commands.Undo(machine),
            machine.NamedDisks is [var first, ..] ? first.Path : machine.Variables!.Folder);

    /// <summary>The same for changes by themselves.</summary>
    /// <param name="terms">How the disks are opened.</param>
    /// <param name="changes">What is written.</param>
    /// <param name="steps">What the record says of them.</param>
    /// <param name="undo">The command that takes them back.</param>
    /// <param name="path">What is written, for the command that completes them.</param>
    public RepairRecord? Write(
        DiskTerms terms,
        ChangeSet changes,
        IReadOnlyList<RecordedStep> steps,
        string undo,
        string path)
    {
        if (logbook.IsInMemory)
        {
            output.Message($"Note: the logbook in {logbook.Path} is kept in memory, and gone after a restart. With --logbook "
                + "you can name a folder on another disk.");
        }

        try
        {
            output.IsWriting = true;
            var commit = new Commit(logbook, new DiskOpening(terms).OpenForWriting, TimeProvider.System, ProgramVersion.Text);
            var record = output.Working("saving the way back, and writing", () => commit.Write(changes, steps));
            if (record is not null)
            {
                output.Written =
                    $"The repair itself is written, read back, and saved as {record.Document.Id}; '{undo}' takes it back.";
            }

            return record;
        }
        catch (StoppedHalfwayException e) when (e.Commands.Count == 0)
        {
            throw new StoppedHalfwayException(
                e.What,
                e.Why,
                "Nothing is lost. To go back, or to complete it, type one of these:",
                e)
            { Commands = [undo, output.Commands.Finish(path)] };
        }
        finally
        {
            output.IsWriting = false;
        }
    }

    /// <summary>A disk that fails, or of which the machine noted that it does, is written only with a word for that.</summary>
    private void AskAboutDisk(Machine machine, Diagnosis diagnosis)
    {
        if (machine.Disks.FirstOrDefault(disk => disk.ReadErrors.Any) is not { } failing)
        {
            if (DiagnoseView.DiskTrouble(diagnosis) is not { } trouble) return;
            new Consent(output, Yes).Agree(
                "The machine noted errors of its disk: make an image first. Write to it nevertheless?",
                () => output.Message(trouble));
            return;
        }

        new Consent(output, Yes).Agree(
            $"{output.Escape(failing.Path)} has read errors: make an image of it before anything else. Write to it nevertheless?",
            () => output.Message($"Sectors that can't be read: {string.Join(", ", failing.ReadErrors.Sectors.Take(20))}"));
    }
}
