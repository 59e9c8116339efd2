using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Machines;
using Keel.Core.Mending;

namespace Keel.Core.Logbook;

/// <summary>
/// The one way in which a plan is carried out, whoever made it: what forbids it, consent, the record, the writing.
/// </summary>
/// <param name="logbook">Where the way back is kept.</param>
/// <param name="clock">Tells the time for the record.</param>
/// <param name="program">The program and its version, for the record.</param>
public sealed class RepairRun(RepairLogbook logbook, TimeProvider clock, string program)
{
    /// <summary>Refuses, before anything is asked, what would not be written whoever agreed to it.</summary>
    /// <exception cref="StoppedHalfwayException">An earlier repair of the machine was cut off.</exception>
    /// <exception cref="RefusedException">A disk is none of plain partitions, or the way back has no room.</exception>
    public void Refuse(Machine machine, ChangeSet changes)
    {
        if (CutOff(machine) is { } found) throw Commit.CutOff(found.Path, found.Record);
        PlainDisks.RefuseOthers(machine);
        if (changes.Any) RequireRoom(changes);
    }

    /// <summary>The first repair of a machine that was cut off, with where it was going on; null where there is none.</summary>
    public (RepairRecord Record, string Path)? CutOff(Machine machine)
    {
        var contents = logbook.Read();
        foreach (var disk in machine.NamedDisks)
        {
            if (RecordSearch.Pending(contents, DiskSeen.Of(disk)) is { } fit) return (fit.Record, disk.Path);
        }

        return machine.Variables is { } variables && RecordSearch.Pending(contents, variables.Folder) is { } record
            ? (record, variables.Folder)
            : null;
    }

    /// <summary>Carries a plan out; gives what was agreed to, and its record, which is null where nothing differed.</summary>
    /// <exception cref="RefusedException">It may not be written, or nobody agreed; nothing was.</exception>
    /// <exception cref="StoppedHalfwayException">Writing began and failed, or an earlier repair was cut off.</exception>
    public (Plan Plan, RepairRecord? Record) Carry(Machine machine, Plan plan, IRepairPartner partner)
    {
        Refuse(machine, plan.Changes);
        partner.AgreeToDisk(machine);
        var agreed = partner.Agree(plan);
        if (agreed != plan) Refuse(machine, agreed.Changes);
        return (agreed, Write(machine, agreed.Changes, agreed.Steps, partner));
    }

    /// <summary>
    /// Carries out one step that changes the firmware's variables alone: there may be no disk to walk, and so no plan.
    /// </summary>
    /// <exception cref="RefusedException">It may not be written, or nobody agreed; nothing was.</exception>
    /// <exception cref="StoppedHalfwayException">Writing began and failed, or an earlier repair was cut off.</exception>
    public RepairRecord? Carry(Machine machine, Step step, IRepairPartner partner)
    {
        var changes = ChangeSet.Of(machine);
        Refuse(machine, changes);
        partner.Agree(step);
        return Write(machine, changes, [step], partner);
    }

    private RepairRecord? Write(Machine machine, ChangeSet changes, IReadOnlyList<Step> steps, IRepairPartner partner)
    {
        RecordedStep[] recorded =
            [.. steps.Select(step => new RecordedStep(step.Link.Id(), step.FindingId, partner.Words(step)))];
        var commit = new Commit(logbook, new DiskOpening(machine.Terms).OpenForWriting, clock, program);
        return partner.While(() => commit.Write(changes, recorded));
    }

    /// <summary>Room for the way back: what stands there now, what will, and a little for the record itself.</summary>
    private void RequireRoom(ChangeSet changes)
    {
        const long forTheRecord = 64 * 1024;
        var needed = changes.RecordBytes + forTheRecord;
        if (logbook.FreeBytes is not { } free || free >= needed) return;
        throw new RefusedException(
            "There is no room for the way back, and nothing was written.",
            $"It takes {needed} bytes in {logbook.Path}, where {free} are free.",
            "Make room there, or name a folder on another disk with --logbook.");
    }
}
