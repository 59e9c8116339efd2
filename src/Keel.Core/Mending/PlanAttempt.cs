using Keel.Core.Chain;
using Keel.Core.Errors;

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
            return Attempt.Refused($"{e.What} {e.Why}", e.Todo);
        }
        catch (Exception e) when (e is not OutOfMemoryException)
        {
            return Attempt.Refused($"The repair met something that it was not made for ({e.GetType().Name}).", "Please report it, with what 'keel diagnose' says.");
        }
    }

    /// <summary>A step is only worth taking where its finding is gone after it, and the machine stops no earlier than before.</summary>
    private static Attempt Judge(Attempt attempt, Finding finding, Walk before, Walk after)
    {
        if (after.Findings.Any(late => StepId.Of(late) == StepId.Of(finding)))
            return Attempt.Refused("The repair was tried in memory, and what is wrong still stood after it.", "Run 'keel explain' with the code on the screen for what else to look at.");
        return after.StopsAt is { } stop && before.StopsAt is { } stopped && stop < stopped
            ? Attempt.Refused($"The repair was tried in memory, and the machine would then stop earlier, at {stop.Id()}.", "Mend what comes before it first.")
            : attempt;
    }
}
