using System.Text.Json;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>What a machine remembers, asked of the built program.</summary>
public sealed class HistoryCommandTests
{
    [Fact]
    public async Task The_first_lines_say_what_went_wrong_and_what_came_before()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "driver-new-and-bad");
        var said = await KeelProgram.Must(0, "history", disk, "--plain");
        var lines = said.Split('\n');
        lines[0].ShouldBe("Starts have failed since 2026-03-02 09:52, and no stop code was noted.");
        lines[1].ShouldBe("The last good start was 2026-03-02 09:11; after it:");
        lines[2].ShouldStartWith("- 2026-03-02 09:40 driver or service tidegauge was installed");
        lines.Length.ShouldBeLessThanOrEqualTo(25);
        lines.ShouldAllBe(line => line.Length <= 80);
        said.ShouldNotContain("\u001b");
        (await KeelProgram.Must(0, "history", disk, "--utc", "--plain")).ShouldContain("2026-03-02 08:40 driver");
    }

    [Fact]
    public async Task The_diagnosis_takes_the_stop_that_nobody_wrote_down()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "storage-driver-disabled");
        var said = await KeelProgram.Must(1, "diagnose", disk, "--plain");
        said.ShouldContain("The machine itself noted stop 0x0000007B");
        var json = await KeelProgram.Json(1, "diagnose", disk);
        json.GetProperty("noted").GetProperty("fit").GetString().ShouldBe("fits");
        json.GetProperty("reported").ValueKind.ShouldBe(JsonValueKind.Null);
        json.GetProperty("memory").GetProperty("stops")[0].GetProperty("code").GetString().ShouldBe("0x7B");
        var told = await KeelProgram.Json(1, "diagnose", disk, "--code", "7b");
        told.GetProperty("noted").ValueKind.ShouldBe(JsonValueKind.Null);
    }

    [Fact]
    public async Task A_driver_that_came_just_before_is_named_beside_the_finding()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "driver-new-and-bad");
        var said = await KeelProgram.Must(1, "diagnose", disk, "--plain");
        string.Join(' ', said.Split((char[])[' ', '\n'], StringSplitOptions.RemoveEmptyEntries))
            .ShouldContain("[driver-new-and-bad] - installed 2026-03-02 09:40, after the last good start");
    }

    [Fact]
    public async Task Disk_errors_that_were_noted_warn_of_the_disk_itself()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "system-hive-damaged");
        var said = (await KeelProgram.Must(1, "diagnose", disk, "--plain")).Split('\n');
        said[0].ShouldStartWith("BROKEN at system-hive");
        Array.FindIndex(said, line => line.StartsWith("The disk itself had trouble: 6 errors", StringComparison.Ordinal))
            .ShouldBeInRange(1, 3);
    }

    [Fact]
    public async Task All_of_it_and_json_tell_every_event()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var usual = await KeelProgram.Json(0, "history", disk);
        var all = await KeelProgram.Json(0, "history", disk, "--all");
        usual.GetProperty("items").GetArrayLength().ShouldBe(12);
        all.GetProperty("items").GetArrayLength().ShouldBe(30);
        usual.GetProperty("judgement").GetProperty("trouble").GetBoolean().ShouldBeFalse();
        usual.GetProperty("timeZone").GetString().ShouldBe("W. Europe Standard Time");
        usual.GetProperty("items")[0].GetProperty("localTime").GetString()!.ShouldEndWith("+01:00");
        (await KeelProgram.Must(0, "history", disk, "--plain")).ShouldContain("and before that 5 good starts");
    }

    [Fact]
    public async Task Where_there_is_no_Windows_it_says_so()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        (await Refused(disk, "--volume", "1")).ShouldContain("There is no Windows on volume 1");
        await File.WriteAllBytesAsync(scratch["empty.img"], new byte[1 << 20], TestContext.Current.CancellationToken);
        (await Refused(scratch["empty.img"])).ShouldContain("There is no Windows to ask.");
    }

    [Fact]
    public async Task A_volume_that_a_repair_would_open_is_asked_through_that_repair()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "mft-mirror-differs");
        var before = await File.ReadAllBytesAsync(disk, TestContext.Current.CancellationToken);
        (await KeelProgram.Must(0, "history", disk, "--plain"))
            .ShouldStartWith("The machine noted stop 0x24 (NTFS_FILE_SYSTEM) 4 times since");
        (await File.ReadAllBytesAsync(disk, TestContext.Current.CancellationToken)).SequenceEqual(before).ShouldBeTrue();
        var said = await KeelProgram.Must(1, "diagnose", disk, "--plain");
        said.ShouldContain("The machine itself noted stop 0x00000024 (NTFS_FILE_SYSTEM): it fits");
    }

    [Fact]
    public async Task Near_codes_are_offered_by_number_and_none_is_called_the_answer()
    {
        var said = await KeelProgram.Must(0, "explain", "0xC000001", "--plain");
        said.ShouldContain("It may be one of 2");
        said.ShouldContain("1. 0xC0000001");
        said.ShouldNotContain("Usual causes");
    }

    private static async Task<string> Refused(params string[] arguments)
    {
        var (code, _, error) = await KeelProgram.Run(["history", .. arguments]);
        code.ShouldBe(3);
        return error;
    }
}
