using Keel.Core.Blocks;

namespace Keel.Core.EventLogs;

/// <summary>Opens event logs of both forms.</summary>
public static class EventLog
{
    /// <summary>A log by its contents; null where they are neither form.</summary>
    /// <exception cref="Errors.ReadFailedException">The disk does not give its beginning.</exception>
    public static IEventLog? TryOpen(IReadableBlocks contents) =>
        EventLogFile.TryOpen(contents) ?? (IEventLog?)OldEventLogFile.TryOpen(contents);

    /// <summary>A FILETIME as a time; null where it is nonsense.</summary>
    public static DateTimeOffset? TimeOf(long fileTime)
    {
        const int firstYear = 1980, lastYear = 9000;
        if (fileTime <= 0 || fileTime >= DateTimeOffset.MaxValue.ToFileTime()) return null;
        var time = DateTimeOffset.FromFileTime(fileTime).ToUniversalTime();
        return time.Year is >= firstYear and <= lastYear ? time : null;
    }
}
