using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;

namespace Keel.Core.Mending;

/// <summary>Tries one remedy in the overlays; what fails, or does not help, leaves nothing behind.</summary>
internal static class PlanAttempt
{
    /// <summary>As many steps as are looked ahead, where a repair shows something broken before it.</summary>
    private const int MostAhead = 4;

    /// <summary>The attempt, and the walk over the machine as it stands then.</summary>
    /// <param name="machine">The machine, which is changed where the attempt is one.</param>
    /// <param name="finding">What is to be mended.</param>
    /// <param name="terms">What may be done.</param>
    /// <param name="before">The walk over the machine as it is.</param>
    /// <param name="isOpen">Whether a finding may be mended in a later step.</param>
    public static (Attempt Attempt, Walk After) Try(
        Machine machine,
        Finding finding,
        RepairTerms terms,
        Walk before,
        Func<Finding, bool> isOpen) => Try(machine, finding, terms, before, isOpen, MostAhead);

    private static (Attempt Attempt, Walk After) Try(
        Machine machine,
        Finding finding,
        RepairTerms terms,
        Walk before,
        Func<Finding, bool> isOpen,
        int ahead)
    {
        var saved = machine.Save();
        var touched = VolumeGuard.Touched(machine).Select(volume => volume.Ref).ToList();
        var attempt = Apply(machine, finding, terms);
        if (attempt.Obstacle == Obstacle.Failed && VolumeGuard.HibernatedVolume(machine) is { } hibernated)
            attempt = Attempt.RefusedBySession(hibernated.Ref);
        attempt = VolumeGuard.Pass(machine, attempt, touched);
        var after = before;
        if (attempt.Step is not null)
        {
            after = Walk.Of(machine);
            attempt = after.Findings.Any(late => StepId.Of(late) == StepId.Of(finding)) ? Attempt.Refused("no-help")
                : (StopsEarlier(before, after) ?? BreaksAnew(before, after, finding)) is { } stop
                    && !CanGoOn(machine, terms, before, after, isOpen, ahead)
                    ? Attempt.Refused("stops-earlier", Fact.Link.Is(stop.Id()))
                : attempt;
        }

        if (attempt.Step is not null) return (attempt, after);
        machine.Restore(saved);
        return (attempt, before);
    }

    private static Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        try
        {
            var remedy = AllRemedies.For(finding)!;
            var attempt = remedy.Apply(machine, finding, terms);

            // What would be written over has to be read, or there is no way back.
            foreach (var disk in machine.Disks) _ = disk.Overlay.Changes();
            return attempt with { Step = attempt.Step is { } step ? step with { MayBeUnread = remedy.MayBeUnread } : null };
        }
        catch (KeelException e)
        {
            return Attempt.Refused(e);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            return Attempt.Refused("not-made-for", Fact.Exception.Is(e.GetType().Name));
        }
    }

    /// <summary>
    /// A step is only worth taking where its finding is gone after it, and the machine stops no earlier than before; the link
    /// where it does.
    /// </summary>
    private static Link? StopsEarlier(Walk before, Walk after) =>
        after.StopsAt is { } stop && before.StopsAt is { } stopped && stop < stopped ? stop : null;

    /// <summary>
    /// Nor is one where the mended link is broken in another way after it; the link where it is.
    /// </summary>
    private static Link? BreaksAnew(Walk before, Walk after, Finding mended)
    {
        var known = before.Findings.Select(StepId.Of).ToHashSet();
        return after.Findings.Any(finding => finding.Link == mended.Link
            && finding.Kind.Severity == Severity.Error
            && !known.Contains(StepId.Of(finding)))
            ? mended.Link
            : null;
    }

    /// <summary>
    /// Whether what shows before the mended link can be mended in turn, as where the boot sector was right for the older loader
    /// as long as the boot manager was missing. It is only tried here, and becomes a step of its own.
    /// </summary>
    private static bool CanGoOn(
        Machine machine,
        RepairTerms terms,
        Walk before,
        Walk after,
        Func<Finding, bool> isOpen,
        int ahead)
    {
        var known = before.Findings.Select(StepId.Of).ToHashSet();
        var shown = ahead == 0 ? null : after.Findings.FirstOrDefault(finding =>
            finding.Link == after.StopsAt
            && finding.Kind.Severity == Severity.Error
            && !known.Contains(StepId.Of(finding))
            && AllRemedies.For(finding) is not null
            && isOpen(finding));
        if (shown is null) return false;
        var saved = machine.Save();
        var (attempt, next) = Try(machine, shown, terms, after, isOpen, ahead - 1);
        var goesOn = attempt.Step is not null
            && (StopsEarlier(before, next) is null || CanGoOn(machine, terms, before, next, isOpen, ahead - 1));
        machine.Restore(saved);
        return goesOn;
    }
}
