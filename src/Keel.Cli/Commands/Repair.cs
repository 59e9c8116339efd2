using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Cli.Wording;
using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Logbook;
using Keel.Core.Machines;
using Keel.Core.Mending;

namespace Keel.Cli.Commands;

/// <summary>What every writing command does with a plan: show, ask, write, walk again.</summary>
internal sealed class Repair(Output output, RepairLogbook logbook)
{
    private readonly RepairRun run = new(logbook, TimeProvider.System, ProgramVersion.Text);

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
        new CutOffRepairs(output, logbook).Refuse(machine);
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

        var (plan, record) = Carry(machine, diagnosis, view.ShowAgain);
        using var mended = machine.OpenAgain();
        var after = output.Working("walking the chain again", () => Diagnosis.Of(mended, reported: null, terms));
        view.Finish(diagnosis with { Plan = plan }, record, after);
        Finished?.Invoke(diagnosis with { Plan = plan }, after);
        return after.Plan.Before.Verdict == Verdict.Sound && !plan.IsUnproven ? 0 : 1;
    }

    /// <summary>Asks, and writes; gives the plan that was agreed to, and its record, null where nothing differed.</summary>
    /// <param name="machine">The machine.</param>
    /// <param name="diagnosis">What is known of it, and what is to be written.</param>
    /// <param name="showAgain">Shows a plan that was made anew, because a step of it was declined.</param>
    private (Plan Plan, RepairRecord? Record) Carry(Machine machine, Diagnosis diagnosis, Action<Plan> showAgain)
    {
        var technician = new Technician(output, output.Commands.Undo(machine))
        {
            Yes = Yes,
            Named = Named,
            DiskTrouble = DiagnoseView.DiskTrouble(diagnosis),
            RecoveryPrompts = diagnosis.RecoveryPrompts,
            ShowAgain = showAgain,
            MemoryLogbook = logbook.IsInMemory ? logbook.Path : null
        };
        var path = machine.NamedDisks is [var first, ..] ? first.Path : machine.Variables!.Folder;
        return WithWayOut(output.Commands.Undo(machine), path, () => run.Carry(machine, diagnosis.Plan, technician));
    }

    /// <summary>Asks about one step on the firmware's variables, and writes it; null where nothing differed.</summary>
    public RepairRecord? Carry(Machine machine, Step step, Action showChanges)
    {
        var folder = machine.Variables!.Folder;
        var technician = new Technician(output, output.Commands.Undo(folder))
        {
            Yes = Yes,
            ShowChanges = showChanges,
            MemoryLogbook = logbook.IsInMemory ? logbook.Path : null
        };
        return WithWayOut(output.Commands.Undo(folder), folder, () => run.Carry(machine, step, technician));
    }

    /// <summary>Where writing stops halfway, the commands that go back, or on, are told.</summary>
    private T WithWayOut<T>(string undo, string path, Func<T> carry)
    {
        try
        {
            return carry();
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
    }
}
