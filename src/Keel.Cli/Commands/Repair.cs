using Keel.Cli.Terminal;
using Keel.Cli.Views;
using Keel.Core.Chain;
using Keel.Core.Firmware;
using Keel.Core.Logbook;
using Keel.Core.Mending;

namespace Keel.Cli.Commands;

/// <summary>What every writing command does with a plan: show, ask, write, walk again.</summary>
internal sealed class Repair(Screen screen, RepairLogbook logbook)
{
    public bool Yes { get; init; }

    public bool Preview { get; init; }

    /// <summary>Carries a plan out, and gives the exit code.</summary>
    public int Run(Machine machine, Diagnosis diagnosis, RepairTerms terms, MendView view)
    {
        foreach (var disk in machine.Disks) logbook.RefuseIfPending(disk.Path, disk.Layout.Identity, disk.Overlay.LengthBytes);
        if (machine.Variables is { } known) logbook.RefuseIfPending(known.Folder);
        view.ShowPlan(diagnosis, Preview);
        if (diagnosis.Plan.Steps.Count == 0 || Preview)
        {
            view.Finish(diagnosis, record: null, after: null);
            return diagnosis.Plan.Before.Verdict == Verdict.Sound ? 0 : 1;
        }

        PlainDisks.RefuseOthers(machine);
        var plan = new Consent(screen, Yes).Agree(machine, diagnosis.Plan, terms);
        if (logbook.IsInMemory)
            screen.Message($"Note: the logbook in {logbook.Path} is kept in memory, and gone after a restart. With --logbook you can name a folder on another disk.");
        var commit = new Commit(logbook, Commit.OpenDisk, TimeProvider.System, ProgramVersion.Text);
        var record = commit.Write(
            [.. machine.Disks.Select(disk => new DiskToWrite(disk.Path, disk.Overlay, disk.Layout.Identity))],
            [.. plan.Steps.Select(step => new RecordedStep(step.Link.Id(), step.FindingId, step.Summary))],
            machine.Variables);

        using var mended = Machine.Open(machine.Disks.Select(disk => disk.Path), machine.Variables is { } variables ? FirmwareVariables.Open(variables.Folder) : null, machine.StartsThrough);
        var after = Diagnosis.Of(mended, reported: null, terms);
        view.Finish(diagnosis with { Plan = plan }, record, after);
        return after.Plan.Before.Verdict == Verdict.Sound ? 0 : 1;
    }
}
