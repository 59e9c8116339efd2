namespace Keel.Core.EventLogs;

/// <summary>One event of an event log.</summary>
/// <param name="Number">Its number in the log; they grow.</param>
/// <param name="Time">When it was logged, in UTC; null where the log holds nonsense.</param>
/// <param name="Provider">Who logged it, as in "Service Control Manager". Text from the disk.</param>
/// <param name="Id">Its number within the provider, 0 to 65535.</param>
/// <param name="Values">What it says, in its order.</param>
public sealed record LoggedEvent(ulong Number, DateTimeOffset? Time, string Provider, int Id, IReadOnlyList<EventValue> Values)
{
    /// <summary>A value by its name; null where there is none.</summary>
    public string? Value(string name) =>
        Values.FirstOrDefault(value => value.Name.Equals(name, StringComparison.OrdinalIgnoreCase))?.Text;

    /// <summary>A value by its place, from 0; null where there are fewer.</summary>
    public string? Value(int place) => place < Values.Count ? Values[place].Text : null;
}
