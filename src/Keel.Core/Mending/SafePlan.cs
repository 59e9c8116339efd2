using Keel.Core.Chain;
using Keel.Core.Machines;

namespace Keel.Core.Mending;

/// <summary>Tells plans that lose nothing and leave the chain sound: only such are carried out unread.</summary>
public static class SafePlan
{
    /// <summary>Whether a plan is such a one; on a disk that has read errors none is.</summary>
    public static bool Holds(Machine machine, Plan plan) =>
        plan.Steps.Count > 0
            && plan.After.Verdict == Verdict.Sound
            && !machine.Disks.Any(disk => disk.ReadErrors.Any)
            && plan.Steps.All(IsHarmless)
            && !RecoveryPrompt.Of(machine, plan).Any(prompt => prompt is { Effect: not PromptEffect.None, IsKeyAtHand: false });

    private static bool IsHarmless(Step step) =>
        step is { MayBeUnread: true, IsGuess: false, Loss: Loss.None, Consent: StepConsent.Usual };
}
