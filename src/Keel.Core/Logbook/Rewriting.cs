using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Logbook;

/// <summary>Brings disks to the state before or after a record: writes, flushes, reads back, marks the record.</summary>
internal static class Rewriting
{
    private const int CompareBytes = 512;
    private const int ReportLimit = 5;

    /// <summary>Refuses where a sector is neither as before nor as after the record: somebody else wrote it.</summary>
    public static void RefuseIfForeign(RepairRecord record, OpenTargets targets)
    {
        var foreign = record.Ranges().SelectMany(range => Foreign(range, targets[range.Disk], record.IsPending).Select(at => $"byte {at}"))
            .Concat(record.Document.Variables is { } variables ? VariableRewriting.Foreign(variables, record.IsPending) : []).ToList();
        if (foreign.Count == 0) return;
        var shown = string.Join(", ", foreign.Take(ReportLimit)) + (foreign.Count > ReportLimit ? $" and {foreign.Count - ReportLimit} more places" : "");
        throw new RefusedException(
            $"The disk no longer holds what record {record.Document.Id} wrote, and nothing was written.",
            $"Something else has been written since, at {shown}.",
            "If that may be lost, run the same command with --even-if-changed.");
    }

    /// <summary>Writes one side of the record to the disks.</summary>
    /// <param name="isFresh">The record was written a moment ago, by this run.</param>
    /// <exception cref="StoppedHalfwayException">A disk failed on the way.</exception>
    public static void Carry(RepairRecord record, OpenTargets targets, bool toAfter, bool isFresh = false)
    {
        try
        {
            foreach (var (disk, range, bytes) in record.Side(toAfter, check: !isFresh)) targets[disk].Write(range.Start, bytes);
            targets.FlushAndForget();
            foreach (var (disk, range, bytes) in record.Side(toAfter, check: false)) ReadBack(range, bytes, targets[disk]);
            if (record.Document.Variables is { } variables) VariableRewriting.Carry(variables, toAfter);
            record.Become(toAfter ? RecordState.Done : RecordState.Undone);
        }
        catch (Exception e) when (e is KeelException or IOException or UnauthorizedAccessException)
        {
            throw new StoppedHalfwayException(
                "Writing to the disk stopped halfway.",
                e.Message,
                $"Nothing is lost: run 'keel undo' to go back, or 'keel logbook finish' to complete record {record.Document.Id}.",
                e);
        }
    }

    private static void ReadBack(RecordedRange range, byte[] bytes, IWritableBlocks target)
    {
        if (target.ReadBytes(range.Start, range.Length).AsSpan().SequenceEqual(bytes)) return;
        throw new UnreadableException(
            $"What was written at byte {range.Start} does not read back the same.",
            "The disk is failing.",
            "Make an image of it first, and work on the image.");
    }

    /// <summary>While a record is pending, each sector may be old or new; once it is done, each must be new.</summary>
    private static IEnumerable<long> Foreign(RecordedBytes range, IWritableBlocks target, bool pending)
    {
        var now = target.ReadBytes(range.Start, range.Before.Length);
        for (var at = 0; at < now.Length; at += CompareBytes)
        {
            var count = Math.Min(CompareBytes, now.Length - at);
            var sector = now.AsSpan(at, count);
            var isAfter = sector.SequenceEqual(range.After.AsSpan(at, count));
            if (!isAfter && !(pending && sector.SequenceEqual(range.Before.AsSpan(at, count)))) yield return range.Start + at;
        }
    }
}
