using Keel.Core.Errors;
using Keel.Core.Hives;
using Keel.Core.Volumes;

namespace Keel.Core.History;

/// <summary>What a Windows wrote down about its own starts.</summary>
/// <param name="Items">The items, the newest first; those without a time come last.</param>
/// <param name="Zone">The time zone that the machine keeps.</param>
/// <param name="Judgement">What can be gathered from them.</param>
/// <param name="EventLog">How its event log was met.</param>
/// <param name="IsCutOff">Whether the event log goes further back than was read.</param>
public sealed record MachineHistory(
    IReadOnlyList<HistoryItem> Items,
    MachineTimeZone Zone,
    HistoryJudgement Judgement,
    EventLogState EventLog,
    bool IsCutOff)
{
    private static readonly TimeSpan PartsOfAStart = TimeSpan.FromMinutes(3);

    /// <summary>Reads it. What is missing or damaged is passed over: a history is never whole.</summary>
    /// <param name="files">The files of its volume.</param>
    /// <param name="folder">Such as <c>\Windows</c>.</param>
    /// <param name="controlSet">The key of the control set in use; null where the SYSTEM hive can't be read.</param>
    /// <param name="scope">How far back.</param>
    public static MachineHistory Read(IVolume files, string folder, HiveKey? controlSet, HistoryScope scope)
    {
        var place = new HistoryPlace(files, folder);
        var zone = MachineTimeZone.Of(controlSet);
        var hivePath = $@"{place.System32}\config\SYSTEM";
        var state = new EventLogState();
        var reach = new HistoryReach(scope);
        var logged = LoggedHistory.Read(place, scope.IsAll, state).TakeWhile(reach.IsWithin).ToList();
        List<HistoryItem> items =
        [
            .. logged,
            .. Try(() => CrashDumpHistory.Read(place)),
            .. FileHistory.Read(place),
            .. Try(() => DeviceLog.Read(place, zone)),
            .. Try(() => HiveHistory.Read(controlSet, hivePath))
        ];
        items = [.. items.OrderByDescending(item => item.Time)];
        return new MachineHistory(scope.IsAll ? items : Fold(items), zone, HistoryJudge.Judge(items), state, reach.IsCutOff);
    }

    /// <summary>What can't be read is passed over.</summary>
    private static IReadOnlyList<HistoryItem> Try(Func<IEnumerable<HistoryItem>> read)
    {
        try
        {
            return [.. read()];
        }
        catch (KeelException)
        {
            return [];
        }
    }

    /// <summary>The same said several times in a row becomes one item, and so do the events of one start or shutdown.</summary>
    private static List<HistoryItem> Fold(List<HistoryItem> items)
    {
        var folded = new List<HistoryItem>();
        foreach (var item in items)
        {
            if (folded is [.., var last] && last.Provider is not null && item.Provider is not null)
            {
                if (IsSame(last, item))
                {
                    folded[^1] = last with { Times = last.Times + 1, Since = item.Time };
                    continue;
                }

                if (IsPartOf(last, item)) continue;
            }

            folded.Add(item);
        }

        return folded;
    }

    private static bool IsSame(HistoryItem one, HistoryItem other) =>
        one.Kind == other.Kind
        && one.Kind is HistoryKind.Disk or HistoryKind.FileSystem or HistoryKind.NotStarted or HistoryKind.UpdateTrouble
            or HistoryKind.Other
        && one.Says.ToString() == other.Says.ToString();

    /// <summary>Whether an item tells of the start or shutdown that a later one tells the end of.</summary>
    private static bool IsPartOf(HistoryItem later, HistoryItem earlier) =>
        later.Time - earlier.Time < PartsOfAStart
        && ((later.Kind is HistoryKind.GoodStart or HistoryKind.Start && earlier.Kind == HistoryKind.Start)
            || (later.Kind == HistoryKind.ShutDown && earlier.Kind == HistoryKind.ShutDown));
}
