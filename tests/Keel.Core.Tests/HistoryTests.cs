using System.Text;
using CsCheck;
using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.EventLogs;
using Keel.Core.Facts;
using Keel.Core.History;
using Keel.Core.Hives;
using Keel.Core.Machines;
using Keel.Core.Mending;

namespace Keel.Core.Tests;

/// <summary>What a machine remembers, and what is gathered from it.</summary>
public sealed class HistoryTests
{
    private static readonly DateTimeOffset Good = new(2026, 11, 20, 8, 11, 0, TimeSpan.Zero);

    [Fact]
    public void A_sound_machine_remembers_good_starts_and_no_trouble()
    {
        using var practice = new Practice();
        var history = WindowsMemory.Of(practice.Machine, HistoryScope.Usual)!.History;
        history.Judgement.HasTrouble.ShouldBeFalse();
        history.Judgement.LastGoodStart.ShouldBe(new DateTimeOffset(2026, 3, 2, 8, 11, 9, TimeSpan.Zero));
        history.Zone.Name.ShouldBe("W. Europe Standard Time");
        history.EventLog.DamagedPlaces.ShouldBe(0);
        history.Items.Count(item => item.Kind == HistoryKind.GoodStart).ShouldBe(6);
    }

    [Theory]
    [InlineData("storage-driver-disabled", 0x7Bu)]
    [InlineData("control-set-missing", 0x74u)]
    [InlineData("driver-missing", 0x7Bu)]
    public void What_nobody_wrote_down_is_taken_from_the_machine(string fault, uint stop)
    {
        using var practice = new Practice(fault);
        var diagnosis = Diagnosis.Of(practice.Machine, reported: null, RepairTerms.Usual);
        diagnosis.Noted!.Code.ShouldBe(stop);
        diagnosis.Fit.ShouldBe(CodeFit.Fits);
        Diagnosis.Of(practice.Machine, "0xc000000f", RepairTerms.Usual).Noted.ShouldBeNull();
    }

    [Fact]
    public void A_bad_driver_that_came_after_the_last_good_start_is_switched_off_where_no_copy_is_sound()
    {
        using var practice = new Practice("driver-new-and-bad");
        var diagnosis = Diagnosis.Of(practice.Machine, reported: null, RepairTerms.Usual);
        var finding = diagnosis.Plan.Findings.ShouldHaveSingleItem();
        diagnosis.ChangeBehind(finding)!.Time.ShouldBe(new DateTimeOffset(2026, 3, 2, 8, 40, 0, TimeSpan.Zero));
        diagnosis.Plan.Steps.ShouldHaveSingleItem().Summary.Id.ShouldBe("step.switch-off-new-driver");
        diagnosis.Plan.After.Verdict.ShouldBe(Verdict.Sound);
    }

    [Fact]
    public void Without_a_remembered_good_start_a_bad_driver_is_left_on()
    {
        using var practice = new Practice("driver-new-and-bad");
        PracticeDisk.Change(practice.Path, machine =>
            machine.Installations[0].Volume.Edit(files => files.Delete(@"\Windows\System32\winevt\Logs\System.evtx")));
        practice.Reopen();
        var plan = Diagnosis.Of(practice.Machine, reported: null, RepairTerms.Usual).Plan;
        plan.Steps.ShouldBeEmpty();
        plan.Refused.ShouldHaveSingleItem().FindingId.ShouldBe("driver-altered");
    }

    [Theory]
    [InlineData("update-half-done", true)]
    [InlineData("none", false)]
    public void Operations_that_wait_are_a_finding_only_where_starts_failed_since(string fault, bool isFinding)
    {
        using var practice = new Practice(fault);
        practice.Edit(files =>
        {
            files.CreateFolder(@"\Windows\WinSxS");
            files.WriteFile(@"\Windows\WinSxS\pending.xml", "<x/>"u8);
        });
        string[] expected = isFinding ? ["update-half-done"] : [];
        Walk.Of(practice.Machine).Findings.Select(finding => finding.Id).ShouldBe(expected);
    }

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void A_crash_dump_says_its_stop_and_when(bool isShort)
    {
        var written = new CrashDump(0x7B, [1, 2, 3, 0xFFFFFFFF], Good);
        var read = CrashDump.TryRead(new MemoryBlocks(CrashDump.Write(written, isShort)))!;
        (read.Code, read.Time).ShouldBe((written.Code, written.Time));
        read.Parameters.ShouldBe(written.Parameters);
    }

    [Theory]
    [InlineData(0, 0)]
    [InlineData(8, 0x41)]
    [InlineData(8192, 0)]
    [InlineData(8192, 0x41)]
    public void What_is_no_dump_says_nothing(int bytes, byte filler)
    {
        var contents = new byte[bytes];
        contents.AsSpan().Fill(filler);
        CrashDump.TryRead(new MemoryBlocks(contents)).ShouldBeNull();
    }

    [Fact]
    public void A_dump_with_a_time_of_nonsense_counts_with_the_time_of_its_file()
    {
        using var practice = new Practice();
        var dump = CrashDump.Write(new CrashDump(0x50, [1, 2, 3, 4], Time: null));
        BitConverter.GetBytes(long.MaxValue).CopyTo(dump, 0xFA8);
        practice.Edit(files =>
        {
            files.CreateFolder(@"\Windows\Minidump");
            files.WriteFile(@"\Windows\Minidump\one.dmp", dump);
            files.SetWritten(@"\Windows\Minidump\one.dmp", Good);
        });
        var stop = practice.Machine.Memory!.History.Items.Single(item => item.Kind == HistoryKind.Stop);
        (stop.StopCode, stop.Time).ShouldBe((0x50u, Good));
    }

    [Fact]
    public void One_stop_is_counted_once_however_many_records_it_left()
    {
        HistoryItem[] items =
        [
            Stop(Good.AddMinutes(60), 0x7B, isNotedLater: true),
            Stop(Good.AddMinutes(60), 0x7B, isNotedLater: true),
            Stop(Good.AddMinutes(41), 0x7B),
            Stop(Good.AddMinutes(41), 0x7B),
            Stop(Good.AddMinutes(50), 0x50),
            Stop(Good.AddDays(-20), 0x7B),
            Item(Good, HistoryKind.GoodStart)
        ];
        var judgement = HistoryJudge.Judge([.. items.OrderByDescending(item => item.Time)]);
        judgement.Stops.Select(stop => (stop.Code, stop.Times)).ShouldBe([(0x50u, 1), (0x7Bu, 1)]);
        judgement.TroubleSince.ShouldBe(Good.AddMinutes(41));
    }

    [Fact]
    public void A_start_that_a_stop_ended_at_once_was_not_good()
    {
        HistoryItem[] items =
        [
            Stop(Good.AddDays(1).AddMinutes(1), 0x1E),
            Item(Good.AddDays(1), HistoryKind.GoodStart),
            Item(Good, HistoryKind.GoodStart)
        ];
        HistoryJudge.Judge(items).LastGoodStart.ShouldBe(Good);
    }

    [Fact]
    public void A_machine_that_stops_every_minute_is_counted_by_the_minute()
    {
        HistoryItem[] items = [.. Enumerable.Range(0, 4).Select(minute => Stop(Good.AddMinutes(9 - minute), 0x24))];
        HistoryJudge.Judge(items).Stops.ShouldHaveSingleItem().Times.ShouldBe(4);
    }

    [Fact]
    public void Without_a_good_start_to_count_from_old_stops_say_nothing_of_now()
    {
        HistoryItem[] items = [Item(Good, HistoryKind.Log), Stop(Good.AddDays(-3), 0x50), Stop(Good.AddYears(-3), 0x7B)];
        HistoryJudge.Judge(items).Stops.ShouldHaveSingleItem().Code.ShouldBe(0x50u);
    }

    [Fact]
    public void Changes_count_from_the_last_good_start_to_the_first_trouble()
    {
        HistoryItem[] items =
        [
            Change(Good.AddMinutes(90), "later"),
            Stop(Good.AddMinutes(60), 0x7B),
            Change(Good.AddMinutes(30), "quay"),
            Item(Good, HistoryKind.GoodStart),
            Change(Good.AddMinutes(-30), "earlier")
        ];
        var judgement = HistoryJudge.Judge(items);
        judgement.Changes.ShouldHaveSingleItem().Driver.ShouldBe("quay");
        judgement.ChangeOf("QUAY").ShouldNotBeNull();
        judgement.ChangeOf("earlier").ShouldBeNull();
    }

    [Fact]
    public void Errors_of_a_disk_count_for_a_month()
    {
        HistoryItem[] items =
        [
            Item(Good, HistoryKind.Disk),
            Item(Good.AddDays(-29), HistoryKind.Disk),
            Item(Good.AddDays(-31), HistoryKind.Disk)
        ];
        HistoryJudge.Judge(items).DiskErrors.Count.ShouldBe(2);
    }

    [Fact]
    public void Any_history_is_judged()
    {
        var kinds = Enum.GetValues<HistoryKind>();
        Gen.Select(Gen.Int[0, kinds.Length - 1], Gen.Int[-40_000, 40_000], Gen.Int[0, 3], Gen.Bool).Array[0, 40].Sample(drawn =>
        {
            var items = drawn
                .Select(one => new HistoryItem(
                    one.Item3 == 0 ? null : Good.AddMinutes(one.Item2),
                    kinds[one.Item1],
                    Remark.Of("history.shut-down"),
                    "log")
                {
                    StopCode = kinds[one.Item1] == HistoryKind.Stop ? 0x7B : null,
                    IsNotedLater = one.Item4
                })
                .OrderByDescending(item => item.Time)
                .ToList();
            var judgement = HistoryJudge.Judge(items);
            var stops = items.Count(item => item.Kind == HistoryKind.Stop);
            judgement.Stops.Sum(stop => stop.Times).ShouldBeLessThanOrEqualTo(stops);
            judgement.Changes.ShouldAllBe(change => change.IsChange);
            if (judgement.LastGoodStart is { } good)
                judgement.Stops.ShouldAllBe(stop => stop.First > good);
        });
    }

    [Theory]
    [InlineData(-60, -60, "2026-03-02 08:11", "2026-03-02 09:11")]
    [InlineData(-60, -60, "2026-07-02 08:11", "2026-07-02 10:11")]
    [InlineData(300, -60, "2026-03-02 08:11", "2026-03-02 03:11")]
    [InlineData(-60, 0, "2026-07-02 08:11", "2026-07-02 09:11")]
    [InlineData(999_999, 0, "2026-07-02 08:11", "2026-07-02 08:11")]
    public void Times_are_told_as_the_machines_clock_showed_them(int bias, int summer, string utc, string local)
    {
        var zone = MachineTimeZone.Of(ZoneKey(bias, summer, [0, 0, 3, 0, 5, 0, 2, 0], [0, 0, 10, 0, 5, 0, 3, 0]));
        zone.Local(DateTimeOffset.Parse(utc + "Z", null)).ToString("yyyy-MM-dd HH:mm", null).ShouldBe(local);
    }

    [Fact]
    public void Any_time_zone_is_survived() =>
        Gen.Select(Gen.Int, Gen.Int[-2000, 2000], Gen.Byte.Array[8], Gen.Byte.Array[8]).Sample((bias, summer, start, end) =>
        {
            var zone = MachineTimeZone.Of(ZoneKey(bias, summer, start, end));
            (zone.Local(Good).UtcDateTime - Good.UtcDateTime).ShouldBe(TimeSpan.Zero);
            zone.FromLocal(new DateTime(2026, 11, 20, 8, 11, 0, DateTimeKind.Unspecified)).ShouldNotBeNull();
        });

    [Fact]
    public void The_log_of_devices_is_told_in_the_machines_time()
    {
        using var practice = new Practice();
        const string log = """
            [Device Install Log]
            >>>  [Device Install (Hardware initiated) - USB\VID_1209&PID_0107\quayscan]
            >>>  Section start 2026/03/02 09:40:11.123
                 dvi: {Build Driver List} 09:40:11.200
            <<<  Section end 2026/03/02 09:40:15.000
            <<<  [Exit status: SUCCESS]
            >>>  [Import Driver Package - C:\tide\gauge.inf]
            >>>  Section start 2026/03/02 09:41:00.000
            <<<  [Exit status: FAILURE(0x00000005)]
            >>>  [Build Driver List - nothing]
            >>>  Section start 2026/03/02 09:42:00.000
            <<<  [Exit status: SUCCESS]
            >>>  [Device Install - cut
            """;
        practice.Edit(files =>
        {
            files.CreateFolder(@"\Windows\INF");
            files.WriteFile(@"\Windows\INF\setupapi.dev.log", Encoding.Latin1.GetBytes(log));
        });
        var told = practice.Machine.Memory!.History.Items
            .Where(item => item.Source == @"\Windows\INF\setupapi.dev.log")
            .ToList();
        told.Select(item => item.Says.Id).ShouldBe(["history.device-failed", "history.device-installed"]);
        told[1].Time.ShouldBe(new DateTimeOffset(2026, 3, 2, 8, 40, 11, 123, TimeSpan.Zero));
    }

    [Theory]
    [InlineData("Microsoft-Windows-WER-SystemErrorReporting", 1001, "param1=0x0000007b (0x1, 0x2)", HistoryKind.Stop, 0x7Bu)]
    [InlineData("BugCheck", 1001, "=0xC000021A (0x1)", HistoryKind.Stop, 0xC000021Au)]
    [InlineData("BugCheck", 1001, "=nonsense", null, null)]
    [InlineData("Microsoft-Windows-Kernel-Power", 41, "BugcheckCode=80", HistoryKind.Stop, 0x50u)]
    [InlineData("Microsoft-Windows-Kernel-Power", 41, "BugcheckCode=0", HistoryKind.WentDark, null)]
    [InlineData("EventLog", 6008, "=08:52:00", HistoryKind.WentDark, null)]
    [InlineData("disk", 153, @"=\Device\Harddisk0\DR0", HistoryKind.Disk, null)]
    [InlineData("stornvme", 129, @"=\Device\RaidPort0", HistoryKind.Disk, null)]
    [InlineData("Microsoft-Windows-Ntfs", 98, "DriveName=C:;CorruptionActionState=0", null, null)]
    [InlineData("Microsoft-Windows-Ntfs", 98, "DriveName=C:;CorruptionActionState=3", HistoryKind.FileSystem, null)]
    [InlineData("Service Control Manager", 7045, "ServiceName=quay;ImagePath=quay.sys", HistoryKind.Service, null)]
    [InlineData("Service Control Manager", 7026, "=\nquay\ngauge", HistoryKind.NotStarted, null)]
    [InlineData("Microsoft-Windows-UserPnp", 20001, @"DriverName=C:\w\oem7.inf;DriverVersion=2.4", HistoryKind.Driver, null)]
    [InlineData("Microsoft-Windows-WindowsUpdateClient", 20, "errorCode=0x8;updateTitle=Tides", HistoryKind.UpdateTrouble, null)]
    [InlineData("quayside", 1, "=something", null, null)]
    public void Events_are_told_by_what_they_mean(string provider, int id, string values, HistoryKind? kind, uint? stop)
    {
        using var practice = new Practice();
        var written = new WrittenEvent(Good, provider, (ushort)id, [.. values.Split(';').Select(value =>
            WrittenValue.Text(value.Split('=')[0], value.Split('=')[1]))]);
        practice.Edit(files => files.WriteFile(
            @"\Windows\System32\winevt\Logs\System.evtx",
            EventLogWriter.Write([written], "PURSER-02")));
        var item = practice.Machine.Memory!.History.Items.SingleOrDefault(item => item.Provider == provider);
        (item?.Kind).ShouldBe(kind);
        (item?.StopCode).ShouldBe(stop);
        WindowsMemory.Of(practice.Machine, HistoryScope.Everything)!.History.Items.ShouldContain(one => one.Provider == provider);
    }

    [Fact]
    public void A_log_is_read_back_to_the_last_good_start_and_no_further()
    {
        using var practice = new Practice();
        var events = Enumerable.Range(0, 3_000)
            .Select(day => new WrittenEvent(Good.AddDays(day - 3_000), "EventLog", 6005))
            .ToList();
        practice.Edit(files => files.WriteFile(
            @"\Windows\System32\winevt\Logs\System.evtx",
            EventLogWriter.Write(events, "PURSER-02")));
        var usual = WindowsMemory.Of(practice.Machine, HistoryScope.Usual)!.History;
        usual.IsCutOff.ShouldBeTrue();
        usual.Items.Count(item => item.Provider is not null).ShouldBe(HistoryScope.Usual.Starts);
        var all = WindowsMemory.Of(practice.Machine, HistoryScope.Everything)!.History;
        (all.IsCutOff, all.Items.Count(item => item.Provider is not null)).ShouldBe((false, 3_000));
    }

    [Fact]
    public void The_same_said_again_becomes_one_item()
    {
        using var practice = new Practice("system-hive-damaged");
        var disk = practice.Machine.Memory!.History.Items.Single(item => item.Kind == HistoryKind.Disk);
        disk.Times.ShouldBe(6);
        (disk.Time - disk.Since).ShouldBe(TimeSpan.FromSeconds(35));
    }

    [Fact]
    public void Files_that_are_folders_or_nonsense_do_no_harm()
    {
        using var practice = new Practice();
        practice.Edit(files =>
        {
            files.WriteFile(@"\Windows\System32\winevt\Logs\System.evtx", "no log at all"u8);
            files.CreateFolder(@"\Windows\MEMORY.DMP");
            files.CreateFolder(@"\Windows\Minidump\one.dmp");
            files.CreateFolder(@"\Windows\Logs\CBS\CBS.log");
            files.WriteFile(@"\Windows\Minidump\two.dmp", new byte[10]);
        });
        var history = practice.Machine.Memory!.History;
        history.EventLog.IsUnreadable.ShouldBeTrue();
        history.Items.ShouldBeEmpty();
        history.Judgement.LastGoodStart.ShouldBeNull();
    }

    private static HistoryItem Item(DateTimeOffset time, HistoryKind kind) =>
        new(time, kind, Remark.Of("history.shut-down"), "log");

    private static HistoryItem Stop(DateTimeOffset time, uint code, bool isNotedLater = false) =>
        Item(time, HistoryKind.Stop) with { StopCode = code, IsNotedLater = isNotedLater };

    private static HistoryItem Change(DateTimeOffset time, string driver) =>
        Item(time, HistoryKind.Service) with { Driver = driver, Provider = "Service Control Manager" };

    private static HiveKey ZoneKey(int bias, int summer, byte[] start, byte[] end)
    {
        var root = new HiveNode("ROOT");
        root.ChildOrNew("Control").ChildOrNew("TimeZoneInformation")
            .Set(HiveValue.OfText("TimeZoneKeyName", "Harbour Standard Time"))
            .Set(HiveValue.OfNumber("Bias", unchecked((uint)bias)))
            .Set(HiveValue.OfNumber("DaylightBias", unchecked((uint)summer)))
            .Set(HiveValue.OfBinary("DaylightStart", [.. start, .. new byte[8]]))
            .Set(HiveValue.OfBinary("StandardStart", [.. end, .. new byte[8]]));
        return Hive.Open(HiveWriter.Write(root)).Root;
    }
}
