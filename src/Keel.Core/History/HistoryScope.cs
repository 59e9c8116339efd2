namespace Keel.Core.History;

/// <summary>How far back a history goes.</summary>
/// <param name="Starts">After how many starts the event log is read no further, once a good one is among them.</param>
/// <param name="DaysBeforeGoodStart">How many days before the last good start are read for what changed.</param>
/// <param name="IsAll">Everything, also events that are not about starts.</param>
public sealed record HistoryScope(int Starts, int DaysBeforeGoodStart, bool IsAll)
{
    /// <summary>What a history tells when nothing else is asked for.</summary>
    public static HistoryScope Usual { get; } = new(12, 7, IsAll: false);

    /// <summary>What a diagnosis needs: the way back to the last good start.</summary>
    public static HistoryScope LastStarts { get; } = new(4, 1, IsAll: false);

    /// <summary>The whole log.</summary>
    public static HistoryScope Everything { get; } = new(int.MaxValue, int.MaxValue, IsAll: true);
}
