using System.Text;
using Keel.Core.Chain;
using Keel.Core.Facts;
using Keel.Core.History;
using Keel.Core.Machines;

namespace Keel.Core.Tests;

/// <summary>What the machine wrote down itself is told, newest first, and never taken for more than it is.</summary>
public sealed class TraceTests
{
    [Fact]
    public void A_machine_that_wrote_nothing_down_has_no_traces()
    {
        using var practice = new Practice();
        TracesOf(practice).ShouldBeEmpty();
    }

    [Theory]
    [InlineData(1, 1, true, true)]
    [InlineData(0, 1, false, true)]
    [InlineData(1, 0, true, false)]
    [InlineData(0, 0, false, false)]
    public void The_boot_status_record_tells_start_and_shutdown(byte started, byte shutDown, bool isStarted, bool isShutDown)
    {
        using var practice = new Practice();
        var record = new byte[64];
        (record[10], record[11]) = (started, shutDown);
        practice.Edit(files => files.WriteFile(@"\Windows\bootstat.dat", record));
        var trace = TracesOf(practice).ShouldHaveSingleItem();
        trace.Source.ShouldBe(@"\Windows\bootstat.dat");
        trace.Says.Id.ShouldBe("trace.boot-status");
        trace.Says.Facts.Get(Fact.IsStarted).ShouldBe(isStarted);
        trace.Says.Facts.Get(Fact.IsShutDown).ShouldBe(isShutDown);
        trace.Time.ShouldNotBeNull();
    }

    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(11)]
    public void A_record_that_is_too_short_says_nothing(int bytes)
    {
        using var practice = new Practice();
        practice.Edit(files => files.WriteFile(@"\Windows\bootstat.dat", new byte[bytes]));
        TracesOf(practice).ShouldBeEmpty();
    }

    [Theory]
    [InlineData("Loaded driver disk.sys\r\nDid not load driver beep.sys\r\n", false, "Did not load driver beep.sys")]
    [InlineData("Loaded driver disk.sys\r\nDid not load driver beep.sys\r\n", true, "Did not load driver beep.sys")]
    [InlineData("only one line", false, "only one line")]
    [InlineData("last with letters\n\n  \n123 456\n", false, "last with letters")]
    public void The_log_of_a_start_is_told_by_its_last_line(string text, bool isWide, string expected)
    {
        using var practice = new Practice();
        byte[] bytes = isWide ? [0xFF, 0xFE, .. Encoding.Unicode.GetBytes(text)] : Encoding.Latin1.GetBytes(text);
        practice.Edit(files => files.WriteFile(@"\Windows\ntbtlog.txt", bytes));
        var trace = TracesOf(practice).ShouldHaveSingleItem();
        trace.Says.Id.ShouldBe("trace.start-log");
        trace.Says.Facts.Get(Fact.Said).ShouldBe(expected);
    }

    [Fact]
    public void A_long_line_is_cut_and_a_large_log_is_read_from_its_end_only()
    {
        using var practice = new Practice();
        var bytes = Encoding.Latin1.GetBytes(new string('a', 600_000) + "\n" + new string('b', 500));
        practice.Edit(files => files.WriteFile(@"\Windows\ntbtlog.txt", bytes));
        TracesOf(practice)[0].Says.Facts.Get(Fact.Said).ShouldBe(new string('b', 120));
    }

    [Fact]
    public void A_file_without_letters_says_nothing()
    {
        using var practice = new Practice();
        practice.Edit(files => files.WriteFile(@"\Windows\ntbtlog.txt", new byte[100_000]));
        TracesOf(practice).ShouldBeEmpty();
    }

    [Fact]
    public void All_that_is_there_is_told_and_a_folder_in_a_files_place_is_not()
    {
        using var practice = new Practice();
        practice.Edit(files =>
        {
            files.WriteFile(@"\Windows\bootstat.dat", new byte[64]);
            files.CreateFolder(@"\Windows\System32\LogFiles\Srt");
            files.WriteFile(@"\Windows\System32\LogFiles\Srt\last repair.txt", "Root cause found: boot file damaged\r\n"u8);
            files.WriteFile(@"\Windows\System32\LogFiles\Srt\notes.bin", "no text file\r\n"u8);
            files.WriteFile(@"\Windows\WinSxS\pending.xml", "<x/>"u8);
            files.CreateFolder(@"\Windows\ntbtlog.txt");
        });
        var traces = TracesOf(practice);
        traces.Select(trace => trace.Says.Id)
            .ShouldBe(["trace.boot-status", "trace.start-repair", "trace.servicing-pending"], ignoreOrder: true);
        traces.Single(trace => trace.Says.Id == "trace.start-repair").Says.Facts.Get(Fact.Said)
            .ShouldBe("Root cause found: boot file damaged");
        traces.Select(trace => trace.Time).ShouldBe(traces.Select(trace => trace.Time).OrderByDescending(time => time));
    }

    [Fact]
    public void Where_no_entry_leads_to_a_Windows_the_one_that_is_there_is_asked()
    {
        using var practice = new Practice("store-missing");
        practice.Edit(files => files.WriteFile(@"\Windows\bootstat.dat", new byte[64]));
        TracesOf(practice).ShouldHaveSingleItem();
    }

    [Theory]
    [InlineData("Number of repair attempts: 3\nUnknown Bugcheck: Bugcheck 7b. Parameters = 0x0\n", 3, 0x7Bu)]
    [InlineData("Number of repair attempts: x\nBugcheck zz\nResult\n", null, null)]
    [InlineData("Bugcheck 50\nBugcheck c000021a, again\n", null, 0xC000021Au)]
    [InlineData("no bugcheck 0 here\n", null, null)]
    public void The_repairs_log_says_how_often_it_tried_and_for_which_stop(string text, int? tries, uint? stop)
    {
        using var practice = new Practice();
        practice.Edit(files =>
        {
            files.CreateFolder(@"\Windows\System32\LogFiles\Srt");
            files.WriteFile(@"\Windows\System32\LogFiles\Srt\last.txt", Encoding.Latin1.GetBytes(text));
        });
        var trace = TracesOf(practice).ShouldHaveSingleItem();
        trace.StopCode.ShouldBe(stop);
        trace.Says.Facts.Get(Fact.Times).ShouldBe(tries ?? 0);
    }

    private static IReadOnlyList<HistoryItem> TracesOf(Practice practice) =>
        WindowsMemory.Of(practice.Machine, HistoryScope.Usual)!.Traces;
}
