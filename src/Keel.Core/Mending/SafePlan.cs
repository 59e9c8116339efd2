using Keel.Core.Chain;
using Keel.Core.Machines;

namespace Keel.Core.Mending;

/// <summary>Tells plans that lose nothing and leave the chain sound: only such are carried out unread.</summary>
public static class SafePlan
{
    /// <summary>Lines that say what is lost, that a start may fail over it, or that another disk may be meant.</summary>
    private static readonly string[] BoldLines =
    [
        "line.lost",
        "line.session-lost",
        "line.lost-more",
        "line.lost-unread",
        "line.hive-lost",
        "line.software-lost",
        "line.driver-carries-disk",
        "line.disks-looked-at",
        "line.volume-unclean",
        "line.copy-not-proven"
    ];

    /// <summary>Steps that guess, or that undo what may have been done on purpose.</summary>
    private static readonly string[] BoldSteps =
    [
        "step.switch-off-new-driver",
        "step.rescue-table",
        "step.list-volumes",
        "step.drop-stale-entries"
    ];

    /// <summary>Whether a plan is such a one; on a disk that has read errors none is.</summary>
    public static bool Holds(Machine machine, Plan plan) =>
        plan.Steps.Count > 0
            && plan.After.Verdict == Verdict.Sound
            && !machine.Disks.Any(disk => disk.ReadErrors.Any)
            && !plan.Steps.Any(step => step.Consent != StepConsent.Usual
                || BoldSteps.Contains(step.Summary.Id)
                || step.Details.Any(detail => BoldLines.Contains(detail.Says.Id)));
}
