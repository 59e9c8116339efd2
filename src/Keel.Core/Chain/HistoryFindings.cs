using Keel.Core.Facts;
using Keel.Core.Machines;

namespace Keel.Core.Chain;

/// <summary>What the history of a machine shows of its state now.</summary>
internal static class HistoryFindings
{
    public static readonly FindingKind UpdateHalfDone = new(
        "update-half-done",
        Link.Session,
        Severity.Warning,
        "An update was not finished, and no start came to its end since.",
        StartupScreens.AutomaticRepair)
    {
        Beyond =
            "From Windows' own recovery, uninstall the latest quality update; where that is not offered, have the pending "
                + "operations taken back there. Then diagnose again."
    };

    public static IReadOnlyList<FindingKind> Kinds => [UpdateHalfDone];

    /// <summary>
    /// Operations wait after every update until the next start; that alone is no finding. With starts that failed since, it is.
    /// </summary>
    public static IEnumerable<Finding> Of(Machine machine, StartedWindows windows)
    {
        if (windows.Files.Find($@"{windows.Folder}\WinSxS\pending.xml") is null
            || machine.Memory?.History is not { Judgement: { UpdateHalfDone: { } item } judgement, Zone: { } zone })
        {
            yield break;
        }

        KnownFact[] facts = [Fact.Path.Is(item.Source), Fact.Volume.Is(windows.Volume.Ref)];
        if (item.Time is { } time) facts = [.. facts, Fact.Written.Is(zone.Local(time))];
        if (judgement.LastGoodStart is { } good) facts = [.. facts, Fact.At.Is(zone.Local(good))];
        yield return UpdateHalfDone.At(facts);
    }
}
