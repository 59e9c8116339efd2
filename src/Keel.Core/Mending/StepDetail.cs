namespace Keel.Core.Mending;

/// <summary>A line under a step.</summary>
/// <param name="Text">May hold text from the disk.</param>
/// <param name="Kind">What the line is about.</param>
public sealed record StepDetail(string Text, StepDetailKind Kind = StepDetailKind.Change)
{
    public static implicit operator StepDetail(string text) => new(text);
}
