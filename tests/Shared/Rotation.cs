namespace Keel.Tests;

/// <summary>
/// What takes long, and is one of many of its kind, has its turn: a part of it each day, all of it where KEEL_WHOLE is set, as
/// the campaigns do.
/// </summary>
internal static class Rotation
{
    /// <summary>Whether a thing is of today's part.</summary>
    /// <param name="name">What tells it from the others of its kind.</param>
    /// <param name="parts">How many days it takes until all had their turn.</param>
    public static bool IsToday(string name, int parts)
    {
        var number = name.Aggregate(17u, (sum, letter) => unchecked((sum * 31) + letter));
        return IsTurnOf((int)(number % parts), parts);
    }

    /// <summary>The same for the first, second … of a few.</summary>
    public static bool IsTurnOf(int index, int parts) =>
        Environment.GetEnvironmentVariable("KEEL_WHOLE") is { Length: > 0 } || index == DateTime.UtcNow.DayOfYear % parts;
}
