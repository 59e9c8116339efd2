namespace Keel.Core.Mending;

/// <summary>What a remedy came to: a step done in the overlay, or the reason for leaving things as they are.</summary>
internal sealed record Attempt(Step? Step, string Why, string Todo)
{
    public static Attempt Done(Step step) => new(step, "", "");

    public static Attempt Refused(string why, string todo) => new(null, why, todo);
}
