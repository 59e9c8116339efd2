using Keel.Core.EventLogs;
using Keel.Core.Facts;
using Keel.Core.Hives;
using Keel.Core.Windows;

namespace Keel.Core.History;

/// <summary>What the SYSTEM hive says of changes: drivers by the time of their keys, and what is left to be done.</summary>
internal static class HiveHistory
{
    private const int ServicesLimit = 8;
    private static readonly TimeSpan TogetherSpan = TimeSpan.FromMinutes(10);

    /// <summary>All of it.</summary>
    public static IEnumerable<HistoryItem> Read(HiveKey? controlSet, string path) =>
        Pending(controlSet, path) is { } pending ? Drivers(controlSet, path).Append(pending) : Drivers(controlSet, path);

    /// <summary>
    /// Drivers whose key was written later than the rest. Windows writes many keys together when it is installed or renewed: what
    /// was written within ten minutes of several others says nothing.
    /// </summary>
    private static IEnumerable<HistoryItem> Drivers(HiveKey? controlSet, string path)
    {
        var keys = (controlSet?.Find("Services")?.Subkeys() ?? [])
            .Select(key => (Key: key, Time: EventLog.TimeOf(key.LastWritten)))
            .Where(one => one.Time is not null)
            .OrderByDescending(one => one.Time)
            .ToList();
        foreach (var (key, time) in keys.Take(ServicesLimit * 2))
        {
            var together = keys.Count(other => (other.Time!.Value - time!.Value).Duration() < TogetherSpan);
            if (together > ServicesLimit) yield break;
            var service = WindowsService.Of(key);
            if (!service.IsDriver) continue;
            yield return new HistoryItem(
                time,
                HistoryKind.Driver,
                Remark.Of("history.driver-key", Fact.Driver.Is(key.Name)),
                path)
            { Driver = key.Name };
        }
    }

    /// <summary>File operations that Windows was to carry out at its next start.</summary>
    private static HistoryItem? Pending(HiveKey? controlSet, string path)
    {
        const string name = "PendingFileRenameOperations";
        var key = controlSet?.Find(@"Control\Session Manager");
        if (key?.Value(name) is not { Data.Length: > 4 } value) return null;

        // Pairs of a file and its new name; an empty new name deletes it.
        return new HistoryItem(
            EventLog.TimeOf(key.LastWritten),
            HistoryKind.Pending,
            Remark.Of("history.pending-files", Fact.PendingCount.Is(Math.Max(1, value.AsTextList()?.Count ?? 0))),
            path);
    }
}
