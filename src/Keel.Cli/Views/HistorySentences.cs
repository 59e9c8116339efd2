using System.Globalization;
using Keel.Cli.Wording;
using Keel.Core.Codes;
using Keel.Core.History;

namespace Keel.Cli.Views;

/// <summary>Tells what can be gathered from a history, in whole sentences.</summary>
/// <param name="history">The history.</param>
/// <param name="isUtc">Whether times are told in UTC, not in the machine's own zone.</param>
internal sealed class HistorySentences(MachineHistory history, bool isUtc)
{
    private const int ChangesTold = 4;

    private HistoryJudgement Judgement => history.Judgement;

    /// <summary>The answer: whether something went wrong since the last good start.</summary>
    public string Answer()
    {
        var since = Judgement.TroubleSince is { } trouble ? $" since {Time(trouble)}" : "";
        if (Judgement.LatestStop is { } stop)
        {
            return $"The machine noted stop {StopName(stop.Code)}{Times(stop.Times)}{since}.";
        }

        if (Judgement.HasTrouble) return $"Starts have failed{since}, and no stop code was noted.";
        return Judgement.LastGoodStart is { } good
            ? $"The last start that was noted was good: {Time(good)}."
            : history.Items.Count > 0
                ? "Nothing is noted of a start, good or bad."
                : "This Windows wrote nothing down about its starts.";
    }

    /// <summary>What led to the trouble; nothing where there is none.</summary>
    public IEnumerable<string> Reasons()
    {
        foreach (var stop in Judgement.Stops.Skip(1))
            yield return $"Before that it noted stop {StopName(stop.Code)}{Times(stop.Times)}.";
        if (Judgement.HasTrouble)
        {
            if (Judgement.LastGoodStart is { } good)
            {
                yield return Judgement.Changes.Count > 0
                    ? $"The last good start was {Time(good)}; after it:"
                    : $"The last good start was {Time(good)}. Nothing is noted of a change after it.";
            }

            foreach (var change in Judgement.Changes.TakeLast(ChangesTold)) yield return $"- {Changed(change)}";
            if (Judgement.Changes.Count > ChangesTold) yield return $"- and {Judgement.Changes.Count - ChangesTold} more before";
        }

        if (Disk() is { } disk) yield return disk;
    }

    /// <summary>That a disk had errors; null where it had none.</summary>
    public string? Disk() => Judgement.DiskErrors is { Count: > 0 } errors
        ? $"The disk itself had trouble: {Words.Count(errors.Count, "error", "errors")} in the last month, the last on "
            + $"{Time(errors[0].Time)}. Make an image of it before anything else."
        : null;

    /// <summary>A change with its time.</summary>
    public string Changed(HistoryItem change) => $"{Time(change.Time)} {Words.Of(change.Says)}";

    /// <summary>A time, as the machine's clock showed it or in UTC.</summary>
    public string Time(DateTimeOffset? time) => time is { } known
        ? (isUtc ? known.ToUniversalTime() : history.Zone.Local(known)).ToString("yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture)
        : "undated";

    /// <summary>A stop code with its name, where it has one.</summary>
    public static string StopName(uint code)
    {
        var text = StopCode.Text(code);
        return new CodeNames().OfStop(code) is { } name ? $"{text} ({name})" : text;
    }

    private static string Times(int times) => times > 1 ? $" {times} times" : "";
}
