using System.Globalization;
using System.Text;
using Keel.Core.EventLogs;
using Keel.Core.History;
using Keel.Core.Volumes;

namespace Keel.Core.Drills;

/// <summary>
/// What a practice machine wrote down: good starts on the days before, and on the last day what its ticket tells of. The last
/// good start is at 8:11 of that day, what changed comes at 8:40, and from 8:52 on the starts fail.
/// </summary>
internal sealed class PracticeMemory
{
    private const string ServiceManager = "Service Control Manager", KernelGeneral = "Microsoft-Windows-Kernel-General";
    private const string System32 = @"\Windows\System32";
    private const int GoodDays = 5, TriesOfAnUnluckyOwner = 4;

    private readonly List<WrittenEvent> events = [];
    private readonly List<(string Path, byte[] Bytes, DateTimeOffset Written)> files = [];
    private readonly string computer;

    private PracticeMemory(PracticeSpec spec)
    {
        computer = spec.MachineName;
        Day = new DateTimeOffset(spec.Made.UtcDateTime.Date, TimeSpan.Zero);
        for (var before = GoodDays; before > 0; before--)
        {
            Start(Day.AddDays(-before).AddHours(6));
            ShutDown(Day.AddDays(-before).AddHours(17));
        }

        Start(LastGoodStart);
    }

    /// <summary>The last day.</summary>
    public DateTimeOffset Day { get; }

    /// <summary>When it started well last.</summary>
    public DateTimeOffset LastGoodStart => Day.AddHours(8).AddMinutes(11);

    /// <summary>When it was changed.</summary>
    public DateTimeOffset Changed => Day.AddHours(8).AddMinutes(40);

    /// <summary>When a start failed first.</summary>
    public DateTimeOffset Failed => Day.AddHours(8).AddMinutes(52);

    /// <summary>Writes what a machine remembers onto its Windows volume.</summary>
    /// <param name="windows">The volume.</param>
    /// <param name="spec">What the practice disk is to be.</param>
    /// <param name="remembered">What the fault's machine remembers beyond its good starts; null for no more.</param>
    public static void Write(DiskVolume windows, PracticeSpec spec, Action<PracticeMemory>? remembered)
    {
        var memory = new PracticeMemory(spec);
        remembered?.Invoke(memory);
        memory.ShutDown(memory.Changed.AddMinutes(5));
        windows.Edit(memory.WriteFiles);
    }

    /// <summary>A driver or service was installed.</summary>
    public void Installed(string name, string path, string start) => events.Add(new WrittenEvent(
        Changed,
        ServiceManager,
        7045,
        WrittenValue.Text("ServiceName", name),
        WrittenValue.Text("ImagePath", path),
        WrittenValue.Text("ServiceType", "kernel mode driver"),
        WrittenValue.Text("StartType", start),
        WrittenValue.Text("AccountName", "")));

    /// <summary>An update was installed, or begun.</summary>
    public void Updated(string title, bool isDone) => events.Add(new WrittenEvent(
        Changed.AddMinutes(1),
        "Microsoft-Windows-WindowsUpdateClient",
        isDone ? (ushort)19 : (ushort)43,
        WrittenValue.Text("updateTitle", title)));

    /// <summary>The disk had bad blocks, and the file system noticed.</summary>
    public void DiskFailed(int times)
    {
        for (var time = 0; time < times; time++)
        {
            events.Add(new WrittenEvent(Changed.AddSeconds(time * 7), "disk", 7, WrittenValue.Text("", @"\Device\Harddisk0\DR0"))
            {
                Level = 2
            });
        }

        events.Add(new WrittenEvent(
            Changed.AddMinutes(2),
            "Microsoft-Windows-Ntfs",
            55,
            WrittenValue.Text("DriveName", "C:"),
            WrittenValue.Text("DeviceName", @"\Device\HarddiskVolume2"))
        { Level = 2 });
    }

    /// <summary>Starts ended in a stop that left a dump each.</summary>
    public void Stopped(uint code, ulong parameter)
    {
        for (var attempt = 0; attempt < TriesOfAnUnluckyOwner; attempt++)
        {
            var time = Failed.AddMinutes(attempt * 3);
            var name = $@"\Windows\Minidump\{time:MMddyy}-{7000 + attempt}-01.dmp";
            files.Add((name, CrashDump.Write(new CrashDump(code, [parameter, 0, 0, (ulong)attempt], time)), time));
        }
    }

    /// <summary>Windows' own repair tried, and noted which stop it was called for.</summary>
    public void RepairTried(uint stopCode)
    {
        var text = string.Create(
            CultureInfo.InvariantCulture,
            $"Startup Repair diagnosis and repair log\r\nNumber of repair attempts: {TriesOfAnUnluckyOwner}\r\n"
                + $"Root cause found:\r\nUnknown Bugcheck: Bugcheck {stopCode:x}. Parameters = 0x0, 0x0, 0x0, 0x0.\r\n"
                + $"Repair action: System files integrity check and repair\r\nResult: Failed. Error code = 0x490\r\n");
        files.Add((
            $@"{System32}\LogFiles\Srt\repair.txt",
            [0xFF, 0xFE, .. Encoding.Unicode.GetBytes(text)],
            Failed.AddMinutes(TriesOfAnUnluckyOwner * 3)));
        StartFailed();
    }

    /// <summary>The boot status record says that a start did not come to its end.</summary>
    public void StartFailed()
    {
        const int recordBytes = 64, shutDownAt = 11;
        var record = new byte[recordBytes];
        record[shutDownAt] = 1;
        files.Add((@"\Windows\bootstat.dat", record, Failed));
    }

    /// <summary>Servicing was under way: operations wait, and its log stops.</summary>
    public void ServicingStopped()
    {
        var time = Changed.AddMinutes(3);
        files.Add((@"\Windows\WinSxS\pending.xml", "<?xml version='1.0'?>\r\n<PendingTransaction/>\r\n"u8.ToArray(), time));

        // Windows writes this log by its own clock, an hour ahead on a day in winter.
        var shown = time.AddHours(1).ToString("yyyy-MM-dd HH:mm:ss", CultureInfo.InvariantCulture);
        files.Add((
            @"\Windows\Logs\CBS\CBS.log",
            Encoding.ASCII.GetBytes(
                $"{shown}, Info                  CBS    Exec: Installing package: tide-tables-cumulative\r\n"
                    + $"{shown}, Info                  CBS    Startup: Processing operation queue\r\n"),
            time));
    }

    private void Start(DateTimeOffset time)
    {
        events.Add(new WrittenEvent(time, KernelGeneral, 12, WrittenValue.Time("StartTime", time)));
        events.Add(new WrittenEvent(time.AddSeconds(9), "EventLog", 6009, WrittenValue.Text("", "10.00.")));
        events.Add(new WrittenEvent(time.AddSeconds(9), "EventLog", 6005));
    }

    private void ShutDown(DateTimeOffset time)
    {
        events.Add(new WrittenEvent(time, "EventLog", 6006));
        events.Add(new WrittenEvent(time.AddSeconds(4), KernelGeneral, 13, WrittenValue.Time("StopTime", time)));
    }

    private void WriteFiles(IVolume volume)
    {
        List<WrittenEvent> ordered = [.. events.OrderBy(one => one.Time)];
        files.Add((
            $@"{System32}\winevt\Logs\System.evtx",
            EventLogWriter.Write(ordered, computer),
            ordered[^1].Time));
        foreach (var (path, bytes, written) in files)
        {
            volume.CreateFolder(VolumeExtensions.FolderOf(path));
            volume.WriteFile(path, bytes);
            volume.SetWritten(path, written);
        }
    }
}
