namespace Keel.Core.EventLogs;

/// <summary>An event that is to be written into a log.</summary>
/// <param name="Time">When it happened.</param>
/// <param name="Provider">Who logs it.</param>
/// <param name="Id">Its number within the provider.</param>
/// <param name="Values">What it says.</param>
internal sealed record WrittenEvent(DateTimeOffset Time, string Provider, ushort Id, params IReadOnlyList<WrittenValue> Values)
{
    /// <summary>1 critical, 2 error, 3 warning, 4 information.</summary>
    public byte Level { get; init; } = 4;
}
