using Keel.Core.Chain;
using Keel.Core.Codes;
using Keel.Core.Facts;
using Keel.Core.History;
using Keel.Core.Machines;
using Keel.Core.Windows;

namespace Keel.Core.Mending;

/// <summary>What is known of a machine after a walk: the plan, and how the reported code fits.</summary>
/// <param name="Machine">The machine.</param>
/// <param name="Plan">What would mend it.</param>
/// <param name="Reported">What the technician reported; null where nothing was.</param>
/// <param name="ExplainedBy">The findings that lead to the reported screen.</param>
/// <param name="Shown">What this disk would show; null where the start goes through.</param>
/// <param name="Installations">The Windows installations, each with whether the store lists it.</param>
public sealed record Diagnosis(
    Machine Machine,
    Plan Plan,
    CodeMatch? Reported,
    IReadOnlyList<Finding> ExplainedBy,
    StartupError? Shown,
    IReadOnlyList<(WindowsInstallation Installation, bool Listed)> Installations)
{
    /// <summary>How what was reported fits.</summary>
    public CodeFit Fit => Reported is null ? CodeFit.NotReported
        : Reported.Errors.Count == 0 ? CodeFit.Unknown
        : ExplainedBy.Any(finding => finding.Link == Plan.Before.StopsAt || Plan.Before.StopsAt is null) ? CodeFit.Fits
        : ExplainedBy.Count > 0 ? CodeFit.FitsAnother
        : CodeFit.DoesNotFit;

    /// <summary>Where else to look; only where nothing here leads to what was reported.</summary>
    public IReadOnlyList<string> LookElsewhere => Fit == CodeFit.DoesNotFit ? Elsewhere.For(Reported!.Errors[0]) : [];

    /// <summary>What remains that keel can't do, where what was found points there.</summary>
    public IReadOnlyList<string> Beyond => RemainingAdvice.For(Plan.Findings, Plan.Refused);

    /// <summary>What the plan means for volumes whose key the TPM keeps.</summary>
    public IReadOnlyList<RecoveryPrompt> RecoveryPrompts => RecoveryPrompt.Of(Machine, Plan);

    /// <summary>What the machine wrote down itself about its starts; null where no Windows is found.</summary>
    public WindowsMemory? Memory { get; init; }

    /// <summary>The stop that the machine noted and nobody reported, taken for what was reported; null for none.</summary>
    public StopSummary? Noted { get; init; }

    /// <summary>What was installed just before the starts failed, where a finding is about it; null otherwise.</summary>
    public HistoryItem? ChangeBehind(Finding finding) =>
        finding.Seen.Facts.Get(Fact.Driver) is { } driver ? Memory?.History.Judgement.ChangeOf(driver) : null;

    /// <summary>Walks, plans in the overlay, and compares with what was reported.</summary>
    /// <param name="machine">The machine; what is to be changed is written into its overlays.</param>
    /// <param name="reported">A code or message as typed; null for none.</param>
    /// <param name="terms">What the technician allows and wants.</param>
    public static Diagnosis Of(Machine machine, string? reported, RepairTerms terms)
    {
        var installations = machine.Installations.Select(installation => (installation, machine.IsListed(installation))).ToList();
        var plan = Plan.For(machine, terms with { AsksForRecoveryKey = IsRecoveryPrompt(reported) });

        // After the plan, for a volume that it mends can be asked then; and never of a disk that fails, for the sake of history.
        var memory = machine.Disks.Any(disk => disk.ReadErrors.Any) ? null : machine.Memory;
        var noted = reported is null && memory?.History.Judgement is { HasTrouble: true, LatestStop: { } stop } ? stop : null;
        var said = noted is null ? reported : StopCode.Text(noted.Code);
        return Of(machine, plan, said, installations) with { Memory = memory, Noted = noted };
    }

    private static bool IsRecoveryPrompt(string? reported) => reported is not null
        && StartupErrors.Load().Find(reported) is { IsChoice: false } match
        && match.Errors.Any(error => error.Id is StartupScreens.RecoveryPrompt or StartupScreens.Locked);

    /// <summary>The same around a plan that was asked for outright.</summary>
    public static Diagnosis OfRequest(Machine machine, Plan plan) => Of(machine, plan, reported: null, []);

    private static Diagnosis Of(
        Machine machine,
        Plan plan,
        string? reported,
        IReadOnlyList<(WindowsInstallation Installation, bool Listed)> installations)
    {
        var needsTable = reported is not null || plan.Before.ShownCode is not null;
        var table = needsTable ? StartupErrors.Load() : null;
        var match = reported is null ? null : Chosen(table!.Find(reported), plan);
        var meant = match?.Errors.Select(error => error.Id).ToHashSet() ?? [];
        return new Diagnosis(
            machine,
            plan,
            match,
            [.. plan.Findings.Where(finding => finding.Kind.Shows.Any(meant.Contains))],
            plan.Before.ShownCode is { } screen ? table!.All.FirstOrDefault(error => error.Id == screen) : null,
            installations);
    }

    /// <summary>Of several codes that may be meant, the one that the disk leads to; all where that is none or several.</summary>
    private static CodeMatch Chosen(CodeMatch match, Plan plan)
    {
        if (!match.IsChoice) return match;
        var shown = match.Errors.Where(error => plan.Findings.Any(finding => finding.Kind.Shows.Contains(error.Id))).ToList();
        return shown is [var only] ? match.Choose(only) : match;
    }
}
