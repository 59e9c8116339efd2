using Keel.Cli.Terminal;
using Keel.Cli.Wording;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Logbook;

namespace Keel.Cli.Commands;

/// <summary>
/// What must be agreed to before a record is followed: where it comes from, and every place that it writes to and nobody named. A
/// logbook can come from a disk that somebody else made.
/// </summary>
internal sealed class RecordTrust(Output output, RepairLogbook logbook)
{
    /// <summary>Agreed beforehand.</summary>
    public bool Yes { get; init; }

    /// <summary>Also for a record from elsewhere.</summary>
    public bool EvenFromElsewhere { get; init; }

    /// <param name="target">What was named.</param>
    /// <param name="work">What would be written.</param>
    /// <exception cref="RefusedException">It was not agreed to.</exception>
    public void Require(RecordTarget target, UndoTargets work)
    {
        if (!logbook.IsOwn(work.Record)) RequireForElsewhere(work);
        foreach (var fit in work.Fits.Where(fit => !target.Disks.Any(disk => DiskPath.IsSame(disk.Path, fit.Disk.Path))))
            RequireForUnnamed(target, fit);
    }

    private void RequireForElsewhere(UndoTargets work)
    {
        if (EvenFromElsewhere) return;
        var record = work.Record.Document;
        if (Yes)
        {
            throw new RefusedException(
                $"Nothing was written: record {record.Id} is from elsewhere.",
                "It does not carry the seal of this computer, or this stick: another one wrote it, or it was changed since.",
                "If it is yours, agree to that by itself with --even-from-elsewhere.");
        }

        output.Message($"Record {record.Id} is from elsewhere: it does not carry the seal of this computer, or this stick.");
        foreach (var fit in work.Fits)
        {
            var bytes = Words.Count(fit.Recorded.Ranges.Sum(range => (long)range.Length), "byte", "bytes");
            output.Message($"  It would write {bytes} to {fit.Disk.Path}.");
        }

        if (work.Variables is { } folder) output.Message($"  It would write firmware variables in {folder}.");
        new Consent(output, yes: false).Agree("Is it to be followed all the same?", () => { });
    }

    private void RequireForUnnamed(RecordTarget target, RecordFit fit)
    {
        if (Yes)
        {
            throw new RefusedException(
                $"Nothing was written: the repair wrote to {fit.Disk.Path} too, which was not named.",
                "--yes agrees to what was named only.",
                "Name it, or leave it as it is with --alone:")
            {
                Commands = [$"{output.Commands.Undo(target.Path)} --with {CommandWords.Quoted(fit.Disk.Path)}"]
            };
        }

        new Consent(output, yes: false).Agree(
            $"The repair wrote to {output.Escape(fit.Disk.Path)} too, which was not named. Write there as well?",
            () => output.Message($"  {Words.Count(fit.Recorded.Ranges.Count, "range", "ranges")}"));
    }
}
