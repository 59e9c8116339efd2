using Keel.Core.Facts;

namespace Keel.Core.Mending;

/// <summary>A line under a step.</summary>
/// <param name="Says">What is decided or changes.</param>
/// <param name="Kind">What the line is about.</param>
public sealed record StepDetail(Remark Says, StepDetailKind Kind = StepDetailKind.Change)
{
    /// <summary>A line that tells of a change.</summary>
    public static implicit operator StepDetail(Remark says) => new(says);
}
