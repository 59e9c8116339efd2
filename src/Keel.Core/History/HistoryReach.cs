namespace Keel.Core.History;

/// <summary>Says when an event log was read far enough back.</summary>
internal sealed class HistoryReach(HistoryScope scope)
{
    private int starts;
    private DateTimeOffset? lastGood;

    /// <summary>Whether the log was left before its end.</summary>
    public bool IsCutOff { get; private set; }

    /// <summary>Whether an item still belongs to what was asked for; asked once each, the newest first.</summary>
    public bool IsWithin(HistoryItem item)
    {
        if (scope.IsAll) return true;
        if (item.Kind == HistoryKind.GoodStart)
        {
            starts++;
            lastGood ??= item.Time;
        }

        var isWithin = starts <= scope.Starts
            || lastGood is not { } good
            || item.Time is not { } time
            || (good - time).TotalDays < scope.DaysBeforeGoodStart;
        IsCutOff = !isWithin;
        return isWithin;
    }
}
