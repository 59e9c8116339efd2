using Keel.Core.Chain;
using Keel.Core.Codes;
using Keel.Core.Windows;

namespace Keel.Core.Mending;

/// <summary>What is known of a machine after a walk: the plan, and how the reported code fits.</summary>
/// <param name="Reported">What the technician reported; null where nothing was.</param>
/// <param name="ExplainedBy">The findings that lead to the reported screen.</param>
/// <param name="Screen">What this disk would show; null where the start goes through.</param>
/// <param name="Installations">The Windows installations, each with whether the store lists it.</param>
public sealed record Diagnosis(
    Machine Machine,
    Plan Plan,
    CodeMatch? Reported,
    IReadOnlyList<Finding> ExplainedBy,
    StartupError? Screen,
    IReadOnlyList<(WindowsInstallation Installation, bool Listed)> Installations)
{
    /// <summary>Walks, plans in the overlay, and compares with what was reported.</summary>
    /// <param name="reported">A code or message as typed; null for none.</param>
    public static Diagnosis Of(Machine machine, string? reported, RepairTerms terms)
    {
        var installations = machine.Installations.Select(installation => (installation, machine.IsListed(installation))).ToList();
        return Of(machine, Plan.For(machine, terms), reported, installations);
    }

    /// <summary>The same around a plan that was asked for outright.</summary>
    public static Diagnosis Around(Machine machine, Plan plan) => Of(machine, plan, reported: null, []);

    private static Diagnosis Of(Machine machine, Plan plan, string? reported, IReadOnlyList<(WindowsInstallation Installation, bool Listed)> installations)
    {
        var needsTable = reported is not null || plan.Before.Screen is not null;
        var table = needsTable ? StartupErrors.Load() : null;
        var match = reported is null ? null : table!.Find(reported);
        var meant = match?.Errors.Select(error => error.Id).ToHashSet() ?? [];
        return new Diagnosis(
            machine,
            plan,
            match,
            [.. plan.Findings.Where(finding => finding.Kind.Shows.Any(meant.Contains))],
            plan.Before.Screen is { } screen ? table!.All.FirstOrDefault(error => error.Id == screen) : null,
            installations);
    }
}
