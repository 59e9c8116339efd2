using System.Runtime.ExceptionServices;
using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Mending;

namespace Keel.Core.Logbook;

/// <summary>Writes to disks, with a record first: the only place in keel from which a disk is changed.</summary>
/// <param name="logbook">Where the record is kept.</param>
/// <param name="open">Opens a disk for writing by its path, and holds it alone; it is disposed of where it can be.</param>
/// <param name="clock">Tells the time for the record.</param>
/// <param name="program">The program and its version, for the record.</param>
public sealed class Commit(RepairLogbook logbook, Func<string, IWritableBlocks> open, TimeProvider clock, string program)
{
    /// <summary>Writes a change set. Returns the record; null where nothing differs.</summary>
    /// <exception cref="RefusedException">A disk is in use, or changed since the plan was made; nothing was written.</exception>
    /// <exception cref="StoppedHalfwayException">Writing began and failed, or an earlier repair was cut off.</exception>
    public RepairRecord? Write(ChangeSet changes, IReadOnlyList<RecordedStep> steps)
    {
        if (!changes.Any) return null;
        using var targets = Targets.Open(
            Written(changes).Select(one => (one.Part, one.Disk.Path)),
            changes.Variables?.Folder,
            open);
        RefuseIfPending(changes, targets);
        if (changes.Variables is { } planned) VariableWriting.RefuseIfChanged(planned);
        foreach (var (part, disk) in Written(changes)) targets.KeepRoom(part, disk.Changes.Ranges.Select(range => range.Range));
        ReusedBuffer before = new(), after = new();
        var record = logbook.Save(
            clock.GetUtcNow(),
            changes.Disks.SelectMany((disk, part) =>
                disk.Changes.Ranges.Select(range => Saved(disk, part, range, targets[part], before, after))),
            (id, sequence, saved) =>
                new RecordDocument(
                    id,
                    sequence,
                    clock.GetUtcNow(),
                    program,
                    Describe(changes, saved),
                    steps,
                    VariableWriting.Describe(changes.Variables)));
        var wrote = false;
        try
        {
            Finishing(record, () =>
            {
                foreach (var (part, disk) in Written(changes))
                {
                    foreach (var range in disk.Changes.Ranges)
                    {
                        var bytes = after.Take(range.Length).Span;
                        disk.Changes.CopyAfter(range, bytes);
                        targets[part].Write(range.Start, bytes);
                        wrote = true;
                    }
                }

                Complete(record, targets, toAfter: true, AllParts(record));
            });
        }
        catch (StoppedHalfwayException e) when (!wrote && e.InnerException is KeelException why && IsAsBefore(record, targets))
        {
            // The disk was never touched: a record of it would ask for an undo, or for a finish that fails the same way, for
            // ever.
            record.Drop();
            ExceptionDispatchInfo.Throw(why);
        }

        return record;
    }

    /// <summary>Whether nothing of a record stands on any of its disks yet; false where that can't be seen.</summary>
    private static bool IsAsBefore(RepairRecord record, Targets targets)
    {
        try
        {
            var now = new ReusedBuffer();
            return record.Ranges(_ => true).All(range =>
            {
                var bytes = now.Take(range.Range.Length).Span;
                targets[range.Part].Read(range.Range.Start, bytes);
                return Checksum.Of(bytes) == range.Range.ChecksumBefore;
            });
        }
        catch (KeelException)
        {
            return false;
        }
    }

    /// <summary>
    /// Completes a write, or an undo, that was cut off: each part goes on in the direction in which it was going.
    /// </summary>
    /// <exception cref="RefusedException">A disk holds what is neither old nor new.</exception>
    public void Finish(UndoTargets work)
    {
        using var targets = OpenTargets(work);
        work = work.On(targets);
        RefuseIfForeign(work);
        foreach (var direction in (RecordState[])[RecordState.Writing, RecordState.Undoing])
        {
            var parts = work.Parts.Where(part => work.Record.Parts[part] == direction).ToList();
            if (parts.Count > 0)
                Finishing(work.Record, () => Carry(work.Record, targets, toAfter: direction == RecordState.Writing, parts));
        }
    }

    /// <summary>
    /// Puts every byte back as it was before the record. Gives the record that keeps what was overwritten, where the disk had
    /// changed or may be another one.
    /// </summary>
    /// <exception cref="RefusedException">The disk no longer holds what the record wrote; says where.</exception>
    public RepairRecord? Undo(UndoTargets work)
    {
        using var targets = OpenTargets(work);
        work = work.On(targets);
        Check(work);
        if (work.Fits.Any(fit => fit.IsQuestionable || !fit.Stands()) || ForeignVariables(work).Any())
            return UndoWithRecord(work, targets);
        work.Record.Become(work.Parts, RecordState.Undoing);
        Finishing(work.Record, () => Carry(work.Record, targets, toAfter: false, work.Parts));
        return null;
    }

    /// <summary>What an undo, or its completion, would be refused for; nothing is written.</summary>
    /// <exception cref="RefusedException">A disk no longer holds what the record wrote.</exception>
    public static void Check(UndoTargets work)
    {
        if (!work.EvenIfChanged || work.Fits.Any(fit => !fit.IsSure && !fit.Stands())) RefuseIfForeign(work);
    }

    /// <summary>What stands there now is saved as a record of its own, then the old bytes are written.</summary>
    private RepairRecord UndoWithRecord(UndoTargets work, Targets targets)
    {
        var old = work.Record;
        var disks = work.Fits.Select(fit => fit.Part).ToList();
        var saved = old.Ranges(disks.Contains)
            .Select(range =>
                new RecordRange(
                    disks.IndexOf(range.Part),
                    range.Range,
                    targets[range.Part].ReadBytes(range.Range.Start, range.Range.Length),
                    range.Before));
        var record = logbook.Save(clock.GetUtcNow(), saved.Select(WithChecksums), (id, sequence, ranges) => new RecordDocument(
            id,
            sequence,
            clock.GetUtcNow(),
            program,
            [.. work.Fits.Select((fit, part) =>
                Describe(fit, [.. ranges.Where(range => range.Part == part).Select(range => range.Range)]))],
            [new RecordedStep("undo", "taken-back", $"Take repair {old.Document.Id} back over what was written since.")],
            work.Variables is null ? null : VariableWriting.AsTheyAre(old.Document.Variables!, work.Variables),
            TakesBack: old.Document.Id));
        Finishing(record, () => Carry(record, targets.Renumbered(disks), toAfter: true, AllParts(record)));
        var sure =
            work.Parts.Where(part => part == old.VariablesPart || work.Fits.Any(fit => fit.Part == part && fit.IsSure)).ToList();
        if (sure.Count > 0) old.Become(sure, RecordState.Undone);
        return record;
    }

    private Targets OpenTargets(UndoTargets work) =>
        Targets.Open(work.Fits.Select(fit => (fit.Part, fit.Disk.Path)), work.Variables, open);

    /// <summary>Writes one side of the record's parts, and marks them.</summary>
    private static void Carry(RepairRecord record, Targets targets, bool toAfter, IReadOnlyCollection<int> parts)
    {
        var now = new ReusedBuffer();
        foreach (var range in record.Ranges(parts.Contains))
        {
            var bytes = (toAfter ? range.After : range.Before).Span;
            targets.WriteWhereOther(range.Part, range.Range.Start, bytes, now.Take(bytes.Length).Span);
        }

        Complete(record, targets, toAfter, parts);
    }

    /// <summary>Flushes, reads back from the devices, writes the variables, and marks the parts.</summary>
    private static void Complete(RepairRecord record, Targets targets, bool toAfter, IReadOnlyCollection<int> parts)
    {
        targets.FlushAndForget();
        var buffer = new ReusedBuffer();
        foreach (var part in Enumerable.Range(0, record.Document.Disks.Count).Where(parts.Contains))
        {
            foreach (var range in record.Document.Disks[part].Ranges)
            {
                ReadBack(
                    range,
                    toAfter ? range.ChecksumAfter : range.ChecksumBefore,
                    targets[part],
                    buffer.Take(range.Length).Span);
            }
        }

        if (record.VariablesPart is { } variables && parts.Contains(variables))
            VariableWriting.Carry(record.Document.Variables!, targets.Variables!, toAfter);
        record.Become(parts, toAfter ? RecordState.Done : RecordState.Undone);
    }

    private static void ReadBack(RecordedRange range, Checksum expected, IWritableBlocks target, Span<byte> bytes)
    {
        target.ReadBack(range.Start, bytes);
        if (Checksum.Of(bytes) == expected) return;
        throw new UnreadableException(
            $"What was written at byte {range.Start} does not read back the same.",
            "The disk is failing.",
            "Make an image of it first, and work on the image.");
    }

    private static void Finishing(RepairRecord record, Action write)
    {
        try
        {
            write();
        }
        catch (Exception e)
        {
            throw new StoppedHalfwayException(
                "Writing to the disk stopped halfway.",
                e.Message,
                $"Nothing is lost: 'keel undo' goes back, and 'keel logbook finish' completes record {record.Document.Id}.",
                e);
        }
    }

    private void RefuseIfPending(ChangeSet changes, Targets targets)
    {
        var contents = logbook.Read();
        foreach (var (part, disk) in Written(changes))
        {
            if (RecordSearch.Pending(
                contents,
                new DiskSeen(disk.Path, targets[part], disk.IdentityBefore, disk.Traits)) is { } fit)
            {
                throw CutOff(disk.Path, fit.Record);
            }
        }

        if (changes.Variables is { } variables && RecordSearch.Pending(contents, variables.Folder) is { } pending)
            throw CutOff(variables.Folder, pending);
    }

    /// <summary>The error where an earlier repair was cut off.</summary>
    public static StoppedHalfwayException CutOff(string path, RepairRecord record) => new(
        $"An earlier repair of {path} was cut off, and nothing more was written.",
        $"Record {record.Document.Id} is still {(record.State == RecordState.Writing ? "being written" : "being taken back")}.",
        $"'keel undo' goes back, 'keel logbook finish' completes it.");

    /// <summary>
    /// What stands in a range now, which must be what was read when the plan was made, and what will stand there.
    /// </summary>
    private static RecordRange Saved(
        DiskChange disk,
        int part,
        ChangedRange range,
        IWritableBlocks target,
        ReusedBuffer old,
        ReusedBuffer fresh)
    {
        if (target.LengthBytes != disk.Changes.LengthBytes) throw Changed(disk.Path);
        var before = old.Take(range.Length);
        target.Read(range.Start, before.Span);
        var checksum = Checksum.Of(before.Span);
        if (checksum != range.ChecksumBefore) throw Changed(disk.Path);
        var after = fresh.Take(range.Length);
        disk.Changes.CopyAfter(range, after.Span);
        var recorded = new RecordedRange(range.Start, range.Length, checksum.ToString(), Checksum.Of(after.Span).ToString());
        return new RecordRange(part, recorded, before, after);
    }

    private static RecordRange WithChecksums(RecordRange range) => range with
    {
        Range = range.Range with
        {
            Before = Checksum.Of(range.Before.Span).ToString(),
            After = Checksum.Of(range.After.Span).ToString()
        }
    };

    private static IReadOnlyList<RecordedDisk> Describe(ChangeSet changes, IReadOnlyList<RecordRange> saved) =>
    [
        .. changes.Disks.Select((disk, part) => new RecordedDisk(
            disk.Path,
            disk.Changes.LengthBytes,
            disk.IdentityBefore.ToString(),
            disk.IdentityAfter.ToString(),
            disk.Traits,
            [.. saved.Where(range => range.Part == part).Select(range => range.Range)]))
    ];

    private static RecordedDisk Describe(RecordFit fit, IReadOnlyList<RecordedRange> ranges) =>
        new(
            fit.Disk.Path,
            fit.Disk.Blocks.LengthBytes,
            fit.Disk.Identity.ToString(),
            fit.Recorded.IdentityBefore,
            fit.Disk.Traits,
            ranges);

    private static int[] AllParts(RepairRecord record) =>
        [.. Enumerable.Range(0, record.Parts.Count).Where(part => record.Parts[part] == RecordState.Writing)];

    private static IEnumerable<(int Part, DiskChange Disk)> Written(ChangeSet changes) =>
        changes.Disks.Select((disk, part) => (part, disk)).Where(one => one.disk.Changes.Any);

    private static void RefuseIfForeign(UndoTargets work)
    {
        const int reportLimit = 5;
        var foreign = work.Fits
            .SelectMany(fit => fit.Foreign().Take(reportLimit + 1).Select(at => $"byte {at} of {fit.Disk.Path}"))
            .Concat(ForeignVariables(work))
            .ToList();
        if (foreign.Count == 0) return;
        var shown = string.Join(", ", foreign.Take(reportLimit)) + (foreign.Count > reportLimit ? " and more places" : "");
        throw new RefusedException(
            $"The disk no longer holds what record {work.Record.Document.Id} wrote, and nothing was written.",
            $"Something else has been written since, at {shown}.",
            work.Fits.All(fit => fit.IsSure)
                ? "If that may be lost, run the same command with --even-if-changed; what it overwrites is saved first."
                : "It is not surely the disk of that repair, so it is left alone.");
    }

    private static IEnumerable<string> ForeignVariables(UndoTargets work) =>
        work.Variables is { } folder ? VariableWriting.Foreign(work.Record, folder) : [];

    private static RefusedException Changed(string what) => new(
        $"{what} has changed since it was looked at, and nothing was written.",
        "Another program has written to it in the meantime.",
        "End the other program, and run the same command again.");
}
