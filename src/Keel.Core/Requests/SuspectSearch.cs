using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Windows;

namespace Keel.Core.Requests;

/// <summary>
/// The search for the one program that keeps a Windows from working: half of the suspects are off, the machine is started, and
/// what came of it tells in which half it is.
/// </summary>
/// <param name="All">The programs that the search began with, by their ids; no other is touched.</param>
/// <param name="Suspects">Those that it may still be.</param>
/// <param name="Off">Those of them that are off for the next start.</param>
public sealed record SuspectSearch(IReadOnlyList<string> All, IReadOnlyList<string> Suspects, IReadOnlyList<string> Off)
{
    /// <summary>Whether it is found: Windows worked with that one off and all others on. It stays off.</summary>
    public bool IsFound { get; private init; }

    /// <summary>Whether none of them can be it: it fails with all of them off.</summary>
    public bool IsNone => Suspects.Count == 0;

    /// <summary>How many starts are needed at most from here.</summary>
    public int StartsLeft => IsFound || IsNone ? 0 : (int)Math.Ceiling(Math.Log2(Suspects.Count)) + 1;

    /// <summary>Begins with these suspects.</summary>
    public static SuspectSearch Of(IReadOnlyList<string> suspects) => new(suspects, suspects, Half(suspects));

    /// <summary>The name of the first suspect; there has to be one.</summary>
    public string FirstName => Suspects[0][(Suspects[0].LastIndexOf('|') + 1)..];

    /// <summary>Begins with all that starts by itself and is not Windows' own.</summary>
    /// <exception cref="RefusedException">There is none.</exception>
    public static SuspectSearch Among(IEnumerable<StartupProgram> programs)
    {
        var suspects = programs.Where(program => program.IsOn && !program.IsOfWindows).Select(program => program.Id).ToList();
        return suspects.Count > 0 ? Of(suspects) : throw new RefusedException(
            "Nothing was written.",
            "Nothing starts by itself but Windows' own services.",
            "Look elsewhere: 'keel history' tells what changed before the trouble began.");
    }

    /// <summary>What the next start needs: those off that it tries, and the others of the search on.</summary>
    public Plan PlanFor(Machine machine, IReadOnlyList<StartupProgram> programs)
    {
        var off = programs.Where(program => Off.Contains(program.Id)).ToList();
        var on = programs.Where(program => All.Contains(program.Id) && !Off.Contains(program.Id)).ToList();
        var summary = IsFound
            ? Remark.Of("step.halving-found", Fact.Title.Is(FirstName))
            : IsNone ? Remark.Of("step.halving-none")
            : Remark.Of("step.halving", Fact.EntryCount.Is(Off.Count), Fact.SuspectCount.Is(Suspects.Count));
        return ProgramRequests.Change(machine, off, on, summary);
    }

    /// <summary>Goes on from what a start came to.</summary>
    /// <param name="startedWell">Whether Windows worked with those off.</param>
    public SuspectSearch After(bool startedWell)
    {
        // The last one is accused only where it was off by itself: it may be none of them.
        if (startedWell && Off.Count == 1) return this with { Suspects = Off, IsFound = true };
        IReadOnlyList<string> left = startedWell ? Off : [.. Suspects.Except(Off)];
        return new SuspectSearch(All, left, Half(left));
    }

    /// <summary>The first half; where one is left, that one is tried.</summary>
    private static IReadOnlyList<string> Half(IReadOnlyList<string> suspects) => [.. suspects.Take((suspects.Count + 1) / 2)];
}
