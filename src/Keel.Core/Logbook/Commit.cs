using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Firmware;

namespace Keel.Core.Logbook;

/// <summary>Writes to disks, with a record first: the only place in keel from which a disk is changed.</summary>
/// <param name="open">Opens a disk for writing, by its path; it is disposed of where it can be.</param>
public sealed class Commit(RepairLogbook logbook, Func<string, IWritableBlocks> open, TimeProvider clock, string program)
{
    private const int RangeLimitBytes = 1024 * 1024;

    /// <summary>Opens real disks, and refuses those in use.</summary>
    public static IWritableBlocks OpenDisk(string path)
    {
        var disk = DiskFile.Open(path, forWriting: true);
        try
        {
            DiskUse.RefuseIfInUse(disk);
            return disk;
        }
        catch
        {
            disk.Dispose();
            throw;
        }
    }

    /// <summary>Writes what the overlays changed. Returns the record; null where nothing differs.</summary>
    /// <exception cref="RefusedException">The disk is in use, or changed since it was looked at; nothing was written.</exception>
    /// <exception cref="StoppedHalfwayException">Writing began and failed.</exception>
    /// <param name="variables">Firmware variables to be written after the disks; null for none.</param>
    public RepairRecord? Write(IReadOnlyList<DiskToWrite> disks, IReadOnlyList<RecordedStep> steps, FirmwareVariables? variables = null)
    {
        var ranges = disks.Select(disk => disk.Overlay.Changes().SelectMany(Split).ToList()).ToList();
        var files = variables?.Changes() ?? [];
        if (ranges.TrueForAll(list => list.Count == 0) && files.Count == 0) return null;
        using var held = logbook.Hold();
        using var targets = new OpenTargets(disks.Select((disk, index) => (disk.Path, ranges[index].Count > 0)), open);
        foreach (var (disk, index) in disks.Select((disk, index) => (disk, index)))
        {
            logbook.RefuseIfPending(disk.Path, disk.IdentityBefore, disk.Overlay.LengthBytes);
            if (ranges[index].Count > 0) RefuseIfChanged(disk, targets[index], ranges[index]);
        }

        if (variables is not null)
        {
            logbook.RefuseIfPending(variables.Folder);
            if (files.FirstOrDefault(file => !VariableRewriting.Holds(variables.Folder, file.Name, file.Before)) is { } other) throw Changed($"The firmware variable {other.Name}");
        }

        var record = Save(disks, ranges, steps, variables is null || files.Count == 0 ? null : new RecordedVariables(variables.Folder, [.. files.Select(VariableRewriting.Record)]));
        Rewriting.Carry(record, targets, toAfter: true, isFresh: true);
        return record;
    }

    /// <summary>Opens the disk of a record by the path that the technician gave, should it have another one today.</summary>
    public static Func<string, IWritableBlocks> OpenDiskAs(RepairRecord record, string path) =>
        recorded => OpenDisk(record.Document.Disks.Count == 1 ? path : recorded);

    /// <summary>Completes a write, or an undo, that was cut off.</summary>
    public void Finish(RepairRecord record, bool evenIfChanged = false) => Redo(record, toAfter: record.State == RecordState.Writing, evenIfChanged);

    /// <summary>Puts every byte back as it was before the record.</summary>
    /// <exception cref="RefusedException">The disk no longer holds what the record wrote; says where.</exception>
    public void Undo(RepairRecord record, bool evenIfChanged = false) => Redo(record, toAfter: false, evenIfChanged);

    private void Redo(RepairRecord record, bool toAfter, bool evenIfChanged)
    {
        using var held = logbook.Hold();
        using var targets = new OpenTargets(record.Document.Disks.Select(disk => (disk.Path, disk.Ranges.Count > 0)), open);
        if (!evenIfChanged) Rewriting.RefuseIfForeign(record, targets);
        if (!toAfter) record.Become(RecordState.Undoing);
        Rewriting.Carry(record, targets, toAfter);
    }

    private RepairRecord Save(IReadOnlyList<DiskToWrite> disks, List<List<ByteRange>> ranges, IReadOnlyList<RecordedStep> steps, RecordedVariables? variables)
    {
        try
        {
            var now = clock.GetUtcNow();
            var folder = logbook.NewRecordFolder(now);
            var parts = disks.SelectMany((disk, index) => ranges[index].Select(range => Bytes(index, disk, range)));
            return RepairRecord.Create(folder, parts, saved => new RecordDocument(
                Path.GetFileName(folder), now, program, [.. disks.Select((disk, index) => Describe(disk, [.. saved.Where(part => part.Disk == index).Select(part => part.Range)]))], steps, variables));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnreadableException(
                "The way back could not be saved, and nothing was written to the disk.",
                $"The logbook in {logbook.Path} can't be written: {e.Message}",
                "Make room there, or name another folder with --logbook.",
                e);
        }
    }

    private static RecordedDisk Describe(DiskToWrite disk, IReadOnlyList<RecordedRange> ranges) =>
        new(disk.Path, disk.Overlay.LengthBytes, disk.IdentityBefore.ToString(), disk.IdentityAfter.ToString(), ranges);

    private static RecordedBytes Bytes(int index, DiskToWrite disk, ByteRange range) =>
        new(index, range.Start, disk.Overlay.Disk.ReadBytes(range.Start, (int)range.Length), disk.Overlay.ReadBytes(range.Start, (int)range.Length));

    private static IEnumerable<ByteRange> Split(ByteRange range)
    {
        for (var start = range.Start; start < range.End; start += RangeLimitBytes)
            yield return new ByteRange(start, Math.Min(RangeLimitBytes, range.End - start));
    }

    /// <summary>The plan was made for what was read; a disk that another program has changed since wants a new one.</summary>
    private static void RefuseIfChanged(DiskToWrite disk, IWritableBlocks target, List<ByteRange> ranges)
    {
        if (target.LengthBytes == disk.Overlay.LengthBytes
            && ranges.TrueForAll(range => target.ReadBytes(range.Start, (int)range.Length).AsSpan().SequenceEqual(disk.Overlay.Disk.ReadBytes(range.Start, (int)range.Length)))) return;
        throw Changed(disk.Path);
    }

    private static RefusedException Changed(string what) => new(
        $"{what} has changed since it was looked at, and nothing was written.",
        "Another program has written to it in the meantime.",
        "End the other program, and run the same command again.");
}
