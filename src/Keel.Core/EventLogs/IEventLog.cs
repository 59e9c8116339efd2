namespace Keel.Core.EventLogs;

/// <summary>An event log, read from its newest event back, and no further than is asked for.</summary>
public interface IEventLog
{
    /// <summary>Places where the log is damaged, met so far; what stands there is passed over.</summary>
    int DamagedPlaces { get; }

    /// <summary>The events that are wanted, the newest first.</summary>
    /// <param name="wanted">Asked for provider and number, before anything else of an event is read.</param>
    /// <exception cref="Errors.ReadFailedException">The disk does not give the log.</exception>
    IEnumerable<LoggedEvent> NewestFirst(Func<string, int, bool> wanted);
}
