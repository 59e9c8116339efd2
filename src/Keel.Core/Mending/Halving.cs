namespace Keel.Core.Mending;

/// <summary>
/// The search for the one program that keeps a Windows from working: half of the suspects are off, the machine is started, and
/// what came of it tells in which half it is.
/// </summary>
/// <param name="All">The programs that the search began with, by their ids; no other is touched.</param>
/// <param name="Suspects">Those that it may still be.</param>
/// <param name="Off">Those of them that are off for the next start.</param>
public sealed record Halving(IReadOnlyList<string> All, IReadOnlyList<string> Suspects, IReadOnlyList<string> Off)
{
    /// <summary>Whether it is found: Windows worked with that one off and all others on. It stays off.</summary>
    public bool IsFound { get; private init; }

    /// <summary>Whether none of them can be it: it fails with all of them off.</summary>
    public bool IsNone => Suspects.Count == 0;

    /// <summary>How many starts are needed at most from here.</summary>
    public int StartsLeft => IsFound || IsNone ? 0 : (int)Math.Ceiling(Math.Log2(Suspects.Count)) + 1;

    /// <summary>Begins with these suspects.</summary>
    public static Halving Of(IReadOnlyList<string> suspects) => new(suspects, suspects, Half(suspects));

    /// <summary>Goes on from what a start came to.</summary>
    /// <param name="startedWell">Whether Windows worked with those off.</param>
    public Halving After(bool startedWell)
    {
        // The last one is accused only where it was off by itself: it may be none of them.
        if (startedWell && Off.Count == 1) return this with { Suspects = Off, IsFound = true };
        IReadOnlyList<string> left = startedWell ? Off : [.. Suspects.Except(Off)];
        return new Halving(All, left, Half(left));
    }

    /// <summary>The first half; where one is left, that one is tried.</summary>
    private static IReadOnlyList<string> Half(IReadOnlyList<string> suspects) => [.. suspects.Take((suspects.Count + 1) / 2)];
}
