using Keel.Core.Chain;
using Keel.Core.Hives;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>
/// Hives are judged whole: what is broken where nothing was looked up is damage, and not a key that somebody deleted.
/// </summary>
public sealed class WholeHiveTests
{
    private const string System = @"\Windows\System32\config\SYSTEM";
    private const int PageBytes = 4096;

    [Theory]
    [InlineData("zeros")]
    [InlineData("noise")]
    public void A_lost_page_of_the_system_hive_is_damage_wherever_it_lies(string what)
    {
        using var practice = new Practice();
        byte[] sound = [];
        practice.ChangeWindows(files => sound = files.ReadFile(System));
        for (var at = HiveHeader.Size; at < sound.Length; at += PageBytes)
        {
            var page = at;
            practice.ChangeWindows(files => files.WriteFile(System, With(sound, page, what)));
            var plan = Plan.For(practice.Machine, RepairTerms.Usual);
            plan.Before.Findings.Select(finding => finding.Id).ShouldBe(["system-hive-damaged"], $"page at {page:x}");
            plan.Steps.ShouldHaveSingleItem().Link.ShouldBe(Link.SystemHive);
            plan.After.Verdict.ShouldBe(Verdict.Sound);
            practice.Machine.RestoreUntouched();
        }
    }

    [Fact]
    public void A_log_that_is_taken_over_at_the_next_start_is_a_note()
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
        {
            var bytes = files.ReadFile(System);
            var header = HiveHeader.TryRead(bytes)!;
            var log = HiveLog.WriteNew(bytes, header.PrimarySequence, [0]);
            (header with { PrimarySequence = header.PrimarySequence + 1 }).Write(bytes);
            files.WriteFile(System, bytes);
            files.WriteFile(System + ".LOG1", log);
        });
        var walk = Walk.Of(practice.Machine);
        walk.Verdict.ShouldBe(Verdict.Sound);
        walk.Findings.ShouldHaveSingleItem().Seen.Id.ShouldBe("hive.log-pending");
        Plan.For(practice.Machine, RepairTerms.Usual).Steps.ShouldBeEmpty();
    }

    [Fact]
    public void No_log_at_all_is_a_note_too()
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
        {
            var bytes = files.ReadFile(System);
            var header = HiveHeader.TryRead(bytes)!;
            (header with { PrimarySequence = header.PrimarySequence + 1 }).Write(bytes);
            files.WriteFile(System, bytes);
        });
        var walk = Walk.Of(practice.Machine);
        walk.Verdict.ShouldBe(Verdict.Sound);
        walk.Findings.ShouldHaveSingleItem().Seen.Id.ShouldBe("hive.no-log");
    }

    [Fact]
    public void A_store_with_a_broken_cell_that_nothing_leads_to_is_written_anew()
    {
        using var practice = new Practice();
        practice.ChangeSystem(files =>
        {
            var bytes = files.ReadFile(BootFiles.Bios.StorePath);
            var last = HiveHeader.Size + (int)HiveHeader.TryRead(bytes)!.BinsBytes - 8;
            var free = LastFree(bytes);
            free.ShouldBeInRange(HiveHeader.Size, last);
            BitConverter.TryWriteBytes(bytes.AsSpan(free), 3);
            files.WriteFile(BootFiles.Bios.StorePath, bytes);
        });
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Before.Verdict.ShouldBe(Verdict.Broken);
        plan.Before.StopsAt.ShouldBe(Link.Store);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
    }

    /// <summary>Hives that another program wrote have a whole frame.</summary>
    [Fact]
    public async Task What_hivex_writes_is_whole()
    {
        using var scratch = new Scratch();
        using var practice = new Practice();
        practice.ChangeWindows(files => File.WriteAllBytes(scratch["hive"], files.ReadFile(System)));
        File.WriteAllText(scratch["do"], "cd \\\nadd ferry\ncd ferry\nsetval 1\nberth\nstring:nine\ncommit\n");
        await Tool.MustAgree("hivexsh", "-w", scratch["hive"], "-f", scratch["do"]);
        Hive.Open(File.ReadAllBytes(scratch["hive"])).FirstBroken().ShouldBeNull();
    }

    private static int LastFree(byte[] hive)
    {
        var found = 0;
        for (var bin = HiveHeader.Size; bin < hive.Length;)
        {
            var size = BitConverter.ToInt32(hive, bin + 8);
            for (var at = bin + 32; at < bin + size; at += Math.Abs(BitConverter.ToInt32(hive, at)))
            {
                if (BitConverter.ToInt32(hive, at) > 0) found = at;
            }

            bin += size;
        }

        return found;
    }

    private static byte[] With(byte[] sound, int at, string what)
    {
        var bytes = sound.ToArray();
        var page = bytes.AsSpan(at, Math.Min(PageBytes, bytes.Length - at));
        if (what == "zeros") page.Clear();
        else new Random(at).NextBytes(page);
        return bytes;
    }
}
