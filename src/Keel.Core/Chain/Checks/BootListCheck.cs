using Keel.Core.Facts;
using Keel.Core.Machines;

namespace Keel.Core.Chain.Checks;

/// <summary>The list of systems of an NT 5 machine: there, readable, with a system in it.</summary>
internal sealed class BootListCheck : ILinkCheck
{
    public static readonly FindingKind Missing = new(
        "boot-list-missing",
        Link.BootList,
        Severity.Error,
        "The list of systems (boot.ini) is missing, and Windows is not where the loader looks without one.",
        StartupScreens.InvalidBootList,
        StartupScreens.Nt5LayerMissing);

    public static readonly FindingKind Empty = new(
        "boot-list-empty",
        Link.BootList,
        Severity.Error,
        "The list of systems (boot.ini) names none, and Windows is not where the loader looks then.",
        StartupScreens.InvalidBootList,
        StartupScreens.Nt5LayerMissing);

    public static readonly FindingKind Unreadable = new(
        "boot-list-unreadable",
        Link.BootList,
        Severity.Error,
        "The list of systems (boot.ini) can't be read, and Windows is not where the loader looks then.",
        StartupScreens.InvalidBootList,
        StartupScreens.Nt5LayerMissing);

    public static readonly FindingKind Unused = new(
        "boot-list-unused",
        Link.BootList,
        Severity.Warning,
        "There is no usable list of systems (boot.ini); the loader says so, and starts the first partition's Windows.",
        StartupScreens.InvalidBootList);

    public static readonly FindingKind Long = new(
        "boot-list-long",
        Link.BootList,
        Severity.Note,
        "The list of systems (boot.ini) has more lines than the loader reads.");

    public Link Link => Link.BootList;

    public IReadOnlyList<FindingKind> Kinds => [Missing, Empty, Unreadable, Unused, Long];

    public LinkReport Check(Machine machine)
    {
        var state = machine.BootList;
        if (state.DiskError is { } error) throw error;
        if (state.Condition == BootListCondition.NoVolume) return LinkReport.Unreached(state.Seen);
        if (state.Condition == BootListCondition.Loaded)
        {
            return state.List!.Lines.Count > BootLists.BootLine.MostRead
                ? LinkReport.Of([Long.At(Fact.EntryCount.Is(state.List.Lines.Count))], state.Seen)
                : LinkReport.Sound(state.Seen);
        }

        if (machine.Nt5Start.IsThere) return LinkReport.Wrong(Unused, state.Seen);
        return LinkReport.Wrong(
            state.Condition switch
            {
                BootListCondition.Missing => Missing,
                BootListCondition.Empty => Empty,
                _ => Unreadable
            },
            state.Seen);
    }
}
