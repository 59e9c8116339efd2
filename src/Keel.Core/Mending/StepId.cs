using Keel.Core.Chain;

namespace Keel.Core.Mending;

/// <summary>What tells one step of a plan from the others, also from those that mend the same kind of finding.</summary>
/// <param name="FindingId">The kind of finding, or that the step was asked for.</param>
/// <param name="Subject">The one finding, by what was seen; or the place among the steps asked for.</param>
public readonly record struct StepId(string FindingId, string Subject)
{
    internal static StepId Of(Finding finding) => new(finding.Id, finding.File is { } file ? $"{file}" : $"{finding.Seen}");
}
