using Keel.Core.EventLogs;
using Keel.Core.History;
using Keel.Core.Volumes;

namespace Keel.Bench;

/// <summary>What a machine that ran for long remembers.</summary>
internal static class Memories
{
    private static readonly DateTimeOffset End = new(2026, 3, 2, 8, 45, 0, TimeSpan.Zero);
    private static readonly string[] Chatter =
    [
        "Microsoft-Windows-DNS-Client", "Microsoft-Windows-Time-Service", "Microsoft-Windows-DistributedCOM", "Netwtw08", "Tcpip"
    ];

    /// <summary>A log of about so many bytes: a start a day, and between them events that nobody asks for.</summary>
    public static byte[] EventLog(int bytes)
    {
        const int bytesAnEvent = 480, eventsADay = 120;
        var count = bytes / bytesAnEvent;
        var events = Enumerable.Range(0, count).Select(number => At(End.AddMinutes((number - count) * 12), number % eventsADay));
        var log = EventLogWriter.Write([.. events], "PURSER-02");
        Console.WriteLine($"{log.Length / 1048576.0:0.0} MiB, {count} events");
        return log;
    }

    /// <summary>Puts the log and crash dumps onto a Windows volume.</summary>
    public static void Write(IVolume files, byte[] log, int dumps)
    {
        files.WriteFile(@"\Windows\System32\winevt\Logs\System.evtx", log);
        files.CreateFolder(@"\Windows\Minidump");
        for (var number = 0; number < dumps; number++)
        {
            var dump = CrashDump.Write(new CrashDump(0x50, [(ulong)number, 0, 0, 0], End.AddDays(-number)));
            files.WriteFile($@"\Windows\Minidump\quay-{number:00}.dmp", [.. dump, .. new byte[256 * 1024]]);
        }
    }

    private static WrittenEvent At(DateTimeOffset time, int place) => place switch
    {
        0 => new WrittenEvent(time, "Microsoft-Windows-Kernel-General", 12, WrittenValue.Time("StartTime", time)),
        1 => new WrittenEvent(time, "EventLog", 6005),
        119 => new WrittenEvent(time, "EventLog", 6006),
        _ => new WrittenEvent(
            time,
            Chatter[place % Chatter.Length],
            (ushort)(1000 + place),
            WrittenValue.Text("Name", $"harbour{place}.brackwater.example"),
            WrittenValue.Text("Said", "The tide tables could not be fetched from the office; they are fetched again later."),
            WrittenValue.Text("By", "north quay, second berth, the small ferry with the green funnel"),
            WrittenValue.Number("Code", (uint)place),
            WrittenValue.Hex("Address", (ulong)place * 4096))
    };
}
