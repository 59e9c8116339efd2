using Keel.Core.Errors;
using Keel.Core.EventLogs;
using Keel.Core.Facts;
using Keel.Core.Volumes;

namespace Keel.Core.History;

/// <summary>What the event log of a Windows says of its starts.</summary>
internal static class LoggedHistory
{
    private const int ToldValuesLimit = 3;

    /// <summary>The items of the log, the newest first; read on as they are asked for.</summary>
    /// <param name="place">Where the Windows is.</param>
    /// <param name="isAll">Also events that are not about starts.</param>
    /// <param name="state">What is told of the log itself.</param>
    public static IEnumerable<HistoryItem> Read(HistoryPlace place, bool isAll, EventLogState state)
    {
        if (Open(place, state) is not { } log) yield break;
        using var events = log
            .NewestFirst((provider, id) => isAll || EventMeanings.Of(provider, id) is not null)
            .GetEnumerator();
        while (TryNext(events, state))
        {
            state.DamagedPlaces = log.DamagedPlaces;
            if (ItemOf(events.Current, state.Path!, isAll) is { } item) yield return item;
        }

        state.DamagedPlaces = log.DamagedPlaces;
    }

    private static IEventLog? Open(HistoryPlace place, EventLogState state)
    {
        string[] paths = [$@"{place.System32}\winevt\Logs\System.evtx", $@"{place.System32}\config\SysEvent.Evt"];
        try
        {
            state.Path = Array.Find(paths, place.Files.FileExists);
            if (state.Path is null) return null;
            var log = EventLog.TryOpen(place.Files.OpenFile(state.Path));
            state.IsUnreadable = log is null;
            return log;
        }
        catch (KeelException)
        {
            state.IsUnreadable = true;
            return null;
        }
    }

    /// <summary>A disk that fails in the middle of the log ends it there.</summary>
    private static bool TryNext(IEnumerator<LoggedEvent> events, EventLogState state)
    {
        try
        {
            return events.MoveNext();
        }
        catch (KeelException)
        {
            state.IsUnreadable = true;
            return false;
        }
    }

    private static HistoryItem? ItemOf(LoggedEvent logged, string path, bool isAll)
    {
        KnownFact[] source = [Fact.Provider.Is(logged.Provider), Fact.EventId.Is(logged.Id)];
        if (EventMeanings.Of(logged.Provider, logged.Id) is { } meaning && meaning.Facts(logged) is { } facts)
        {
            var set = new FactSet([.. facts, .. source]);
            var isStop = set.Get(Fact.Stop) is not null;
            return new HistoryItem(
                logged.Time,
                isStop ? HistoryKind.Stop : meaning.Kind,
                new Remark(isStop ? "history.stop-noted" : meaning.Sentence, set),
                path)
            {
                StopCode = StopCode.AtStartOf(set.Get(Fact.Stop)),
                Driver = set.Get(Fact.Driver),
                Provider = logged.Provider,
                EventId = logged.Id,
                IsNotedLater = meaning.IsNotedLater
            };
        }

        if (!isAll) return null;
        var said = string.Join(
            ", ",
            logged.Values.Select(value => value.Text.Trim()).Where(text => text.Length > 0).Take(ToldValuesLimit));
        return new HistoryItem(
            logged.Time,
            HistoryKind.Other,
            Remark.Of("history.event", said.Length == 0 ? source : [.. source, Fact.Said.Is(said)]),
            path)
        { Provider = logged.Provider, EventId = logged.Id };
    }
}
