using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Facts;

namespace Keel.Core.Mending;

/// <summary>Tries one remedy in the overlays; what fails, or does not help, leaves nothing behind.</summary>
internal static class PlanAttempt
{
    /// <summary>The attempt, and the walk over the machine as it stands then.</summary>
    public static (Attempt Attempt, Walk After) Try(Machine machine, Finding finding, RepairTerms terms, Walk before)
    {
        var saved = machine.Save();
        var attempt = Apply(machine, finding, terms);
        var after = before;
        if (attempt.Step is not null)
        {
            after = Walk.Of(machine);
            attempt = Judge(attempt, finding, before, after);
        }

        if (attempt.Step is not null) return (attempt, after);
        machine.Restore(saved);
        return (attempt, before);
    }

    private static Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        try
        {
            var attempt = AllRemedies.For(finding)!.Apply(machine, finding, terms);

            // What would be written over has to be read, or there is no way back.
            foreach (var disk in machine.Disks) _ = disk.Overlay.Changes();
            return attempt;
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
    /// A step is only worth taking where its finding is gone after it, and the machine stops no earlier than before.
    /// </summary>
    private static Attempt Judge(Attempt attempt, Finding finding, Walk before, Walk after)
    {
        if (after.Findings.Any(late => StepId.Of(late) == StepId.Of(finding)))
            return Attempt.Refused("no-help");
        return after.StopsAt is { } stop && before.StopsAt is { } stopped && stop < stopped
            ? Attempt.Refused("stops-earlier", Fact.Link.Is(stop.Id()))
            : attempt;
    }
}
