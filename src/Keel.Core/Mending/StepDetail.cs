using Keel.Core.Facts;

namespace Keel.Core.Mending;

/// <summary>A line under a step.</summary>
/// <param name="Says">What is decided or changes.</param>
/// <param name="Kind">What the line is about.</param>
public sealed record StepDetail(Remark Says, StepDetailKind Kind = StepDetailKind.Change)
{
    /// <summary>What is lost, where the line says that something is.</summary>
    public Loss Loss { get; init; }

    /// <summary>A line that tells of a change.</summary>
    public static implicit operator StepDetail(Remark says) => new(says);

    /// <summary>A line that says what is lost.</summary>
    public static StepDetail Lost(Loss loss, Remark says) => new(says) { Loss = loss };
}
