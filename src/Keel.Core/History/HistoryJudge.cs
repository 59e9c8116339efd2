namespace Keel.Core.History;

/// <summary>Judges what a machine remembers.</summary>
internal static class HistoryJudge
{
    /// <summary>A stop so soon after services ran belongs to the start.</summary>
    private static readonly TimeSpan StartTakes = TimeSpan.FromMinutes(3);

    /// <summary>The large and the small dump of one stop carry the same time; the next stop may come in a minute.</summary>
    private static readonly TimeSpan SameMoment = TimeSpan.FromSeconds(5);

    /// <summary>A stop and what is noted of it at the next start lie no further apart.</summary>
    private static readonly TimeSpan NotedWithin = TimeSpan.FromDays(3);

    /// <summary>How long before the first trouble a change counts, where no good start is remembered.</summary>
    private static readonly TimeSpan BeforeTrouble = TimeSpan.FromDays(1);

    /// <summary>What is older than this before the newest item says nothing of now.</summary>
    private static readonly TimeSpan RecentSpan = TimeSpan.FromDays(30);

    /// <param name="items">All items, the newest first, as they were read.</param>
    public static HistoryJudgement Judge(IReadOnlyList<HistoryItem> items)
    {
        var stops = DistinctStops(items);
        var lastGood = LastGoodStart(items, stops);

        // Without a good start to count from, a stop of years ago would be taken for today's.
        var from = lastGood ?? items.Max(item => item.Time) - RecentSpan;
        var since = stops.Where(stop => stop.Time > from).ToList();
        var status = items.FirstOrDefault(item =>
            item.Says.Id == "trace.boot-status" && item.Provider is null && (lastGood is null || item.Time > lastGood));
        var lastStartFailed = status is not null && !status.Says.Facts.Get(Facts.Fact.IsStarted);
        var repair = items.FirstOrDefault(item => item.Kind == HistoryKind.Repair && (lastGood is null || item.Time > lastGood));
        DateTimeOffset?[] troubles =
            [since.Count > 0 ? since[^1].Time : null, lastStartFailed ? status!.Time : null, repair?.Time];
        var trouble = troubles.Min();
        return new HistoryJudgement(
            lastGood,
            Changes(items, lastGood, trouble),
            Summaries(since),
            trouble,
            RecentDiskErrors(items),
            lastStartFailed,
            HalfDone(items, lastGood, trouble));
    }

    /// <summary>
    /// One item a stop: a dump, the small dump of the same moment, and what the next start notes of it are one. The newest first.
    /// </summary>
    public static IReadOnlyList<HistoryItem> DistinctStops(IReadOnlyList<HistoryItem> items)
    {
        var all = items.Where(item => item.StopCode is not null).ToList();
        var distinct = new List<HistoryItem>();
        foreach (var dump in all.Where(item => !item.IsNotedLater))
        {
            if (!distinct.Exists(other => other.StopCode == dump.StopCode && Within(other.Time, dump.Time, SameMoment)))
                distinct.Add(dump);
        }

        var notes = new List<HistoryItem>();
        var told = new HashSet<HistoryItem>();
        foreach (var note in all.Where(item => item.IsNotedLater).OrderBy(item => item.Time))
        {
            if (notes.Exists(other => other.StopCode == note.StopCode && Within(other.Time, note.Time, StartTakes))) continue;
            notes.Add(note);
            var dump = distinct.LastOrDefault(other =>
                !other.IsNotedLater
                && other.StopCode == note.StopCode
                && !told.Contains(other)
                && other.Time <= note.Time
                && Within(other.Time, note.Time, NotedWithin));
            if (dump is not null) told.Add(dump);
            else distinct.Add(note);
        }

        return [.. distinct.OrderByDescending(stop => stop.Time)];
    }

    /// <summary>The last start whose services ran, and that no stop ended at once.</summary>
    private static DateTimeOffset? LastGoodStart(IReadOnlyList<HistoryItem> items, IReadOnlyList<HistoryItem> stops) => items
        .Where(item => item is { Kind: HistoryKind.GoodStart, Time: not null })
        .Where(item => !stops.Any(stop =>
            !stop.IsNotedLater && stop.Time >= item.Time && Within(stop.Time, item.Time, StartTakes)))
        .Max(item => item.Time);

    private static bool Within(DateTimeOffset? one, DateTimeOffset? other, TimeSpan span) =>
        one is { } first && other is { } second && (first - second).Duration() <= span;

    private static List<HistoryItem> Changes(
        IReadOnlyList<HistoryItem> items,
        DateTimeOffset? lastGood,
        DateTimeOffset? trouble)
    {
        var from = lastGood ?? trouble - BeforeTrouble;
        if (from is null) return [];
        var changes = items
            .Where(item => item.IsChange && item.Time >= from && (trouble is null || item.Time <= trouble))
            .OrderBy(item => item.Time)
            .ToList();

        // The log names the driver that a key only dates.
        return [.. changes.Where(change => change.Provider is not null || !changes.Exists(other =>
            other.Provider is not null && string.Equals(other.Driver, change.Driver, StringComparison.OrdinalIgnoreCase)))];
    }

    private static List<StopSummary> Summaries(IEnumerable<HistoryItem> stops) =>
    [
        .. stops
            .GroupBy(stop => stop.StopCode!.Value)
            .Select(group => new StopSummary(
                group.Key,
                group.Count(),
                group.Min(stop => stop.Time),
                group.Max(stop => stop.Time)))
            .OrderByDescending(summary => summary.Last)
    ];

    private static List<HistoryItem> RecentDiskErrors(IReadOnlyList<HistoryItem> items)
    {
        var newest = items.Max(item => item.Time);
        return [.. items.Where(item => item.Kind == HistoryKind.Disk && item.Time >= newest - RecentSpan)];
    }

    /// <summary>Operations that wait are usual between an update and the next start, but not after one that failed.</summary>
    private static HistoryItem? HalfDone(IReadOnlyList<HistoryItem> items, DateTimeOffset? lastGood, DateTimeOffset? trouble) =>
        trouble is null
            ? null
            : items.FirstOrDefault(item =>
                item.Says.Id == "trace.servicing-pending" && (lastGood is null || item.Time >= lastGood));
}
