using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.Mending;

/// <summary>
/// Which volumes may not be written, in whatever way: files, boot sectors and the records of the file system pass the same guard.
/// A hibernated Windows has all of its volumes open, and a journal with work in it is written over whatever is put there now.
/// </summary>
internal static class VolumeGuard
{
    /// <summary>The volumes on which something differs from the disk.</summary>
    public static IReadOnlyList<DiskVolume> Touched(Machine machine) =>
        [.. machine.Disks.SelectMany(disk => disk.Overlay.Changes().Ranges is { Count: > 0 } ranges
            ? disk.Volumes.Where(volume => ranges.Any(range => range.Range.Overlaps(volume.Partition.Range)))
            : [])];

    /// <summary>The attempt, or why it may not be; volumes that were not properly closed are named in its step.</summary>
    /// <param name="machine">The machine as the attempt leaves it.</param>
    /// <param name="attempt">What was done.</param>
    /// <param name="known">The volumes that were touched before.</param>
    public static Attempt Pass(Machine machine, Attempt attempt, IReadOnlyList<VolumeRef> known)
    {
        if (attempt.Step is not { } step) return attempt;
        var touched = Touched(machine).Where(volume => !known.Contains(volume.Ref)).ToList();
        if (touched.Count == 0) return attempt;
        if (HibernatedVolume(machine) is { } hibernated) return Attempt.RefusedBySession(hibernated.Ref);
        if (touched.Select(volume => volume.WhyNotWritten()).FirstOrDefault(why => why is not null) is { } refusal)
            return Attempt.Refused(refusal);
        return Attempt.Done(WithUnclean(step, touched));
    }

    /// <summary>The same for a step that was asked for outright.</summary>
    /// <exception cref="RefusedException">It may not be.</exception>
    public static Step Pass(Machine machine, Step step, IReadOnlyList<VolumeRef> known)
    {
        var touched = Touched(machine).Where(volume => !known.Contains(volume.Ref)).ToList();
        if (touched.Count == 0) return step;
        if (HibernatedVolume(machine) is { } hibernated)
        {
            throw new RefusedException(
                $"{touched[0]} is not in a state to be written, and nothing was.",
                $"Windows is hibernated on {hibernated}, and has its volumes open.",
                "Start it, and shut it down fully. Where it neither resumes nor starts: 'keel mend DISK --give-up-session' gives "
                    + "the session up, as a step of its own.");
        }

        if (touched.Select(volume => volume.WhyNotWritten()).FirstOrDefault(why => why is not null) is { } refusal) throw refusal;
        return WithUnclean(step, touched);
    }

    /// <summary>The volume where a Windows of the machine is hibernated; null where none is.</summary>
    public static DiskVolume? HibernatedVolume(Machine machine) => machine.Installations
        .Select(installation => installation.Volume)
        .FirstOrDefault(volume => volume.Files is { } files && WindowsVolumeHealth.IsHibernated(files));

    /// <summary>Whether Windows' own check would agree with what is on an unclean volume, nobody knows.</summary>
    private static Step WithUnclean(Step step, IEnumerable<DiskVolume> touched)
    {
        var lines = touched
            .Where(volume => volume.Files is NtfsVolume { IsDirty: true })
            .Select(volume => new StepDetail(Remark.Of("line.volume-unclean", Fact.Volume.Is(volume.Ref))))
            .ToList();
        return lines.Count == 0 ? step : step with { Details = [.. step.Details, .. lines], IsGuess = true };
    }
}
