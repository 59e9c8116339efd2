using System.Text.Json;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>The layout of a disk, shown, rescued and changed by the built program, and judged by sfdisk and sgdisk.</summary>
public sealed class LayoutCommandTests
{
    [Theory]
    [InlineData("bios")]
    [InlineData("uefi")]
    public async Task The_disk_is_drawn_to_scale(string firmware)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none", firmware: firmware);
        var said = await KeelProgram.Must(0, "layout", "show", disk, "--plain");
        var lines = said.Split('\n');
        lines[0].ShouldBe("The partition table is sound.");
        lines.ShouldAllBe(line => line.Length <= 80);
        var drawing = lines.Single(line => line.TrimStart().StartsWith('|')).Trim();
        var parts = drawing.Trim('|').Split('|');
        parts.Length.ShouldBe(firmware == "bios" ? 2 : 4);

        // The volume of Windows has four times the size of the small one of a BIOS disk, and two and a half of a UEFI disk.
        var (small, windows) = firmware == "bios" ? (parts[0], parts[1]) : (parts[0], parts[2]);
        ((double)windows.Length / small.Length).ShouldBeInRange(2, 5);
        if (firmware == "uefi") said.ShouldContain("Both copies of the GPT");
    }

    [Theory]
    [InlineData("table-missing", "bios", "unlisted")]
    [InlineData("volume-unlisted", "bios", "unlisted")]
    [InlineData("volume-unlisted", "uefi", "unlisted")]
    [InlineData("none", "uefi", "partition")]
    public async Task What_is_found_is_told_with_what_speaks_for_it(string fault, string firmware, string kind)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, fault, firmware: firmware);
        var shown = await KeelProgram.Json(fault == "none" ? 0 : 1, "layout", "show", disk);
        var areas = shown.GetProperty("areas").EnumerateArray().ToList();
        var found = areas.First(area => area.GetProperty("kind").GetString() == kind);
        found.GetProperty("certain").GetBoolean().ShouldBeTrue();
        found.GetProperty("evidence").EnumerateArray().Select(word => word.GetString()).ShouldContain("own-place");
        var end = 0L;
        foreach (var area in areas)
        {
            area.GetProperty("firstSector").GetInt64().ShouldBeGreaterThanOrEqualTo(end);
            end = area.GetProperty("firstSector").GetInt64() + area.GetProperty("sectors").GetInt64();
        }
    }

    [Theory]
    [InlineData("")]
    [InlineData("--thorough")]
    public async Task A_lost_table_is_written_anew_and_taken_back(string how)
    {
        using var scratch = new Scratch();
        var sound = await KeelProgram.Practice(scratch, "none", "sound.img");
        var wanted = await Dump(sound);
        var disk = await KeelProgram.Practice(scratch, "table-missing");
        var before = await Images.Hash(disk);
        string[] words = ["layout", "rescue", disk, "--yes", "--logbook", scratch["logbook"]];
        if (how.Length > 0) words = [.. words, how];
        (await KeelProgram.Run(words)).ExitCode.ShouldBe(1, "the code of the first sector is still gone");
        (await Dump(disk)).ShouldBe(wanted);
        (await Tool.MustAgree("sfdisk", "--verify", disk)).ShouldContain("No errors");
        await KeelProgram.Must(0, "undo", disk, "--yes", "--logbook", scratch["logbook"]);
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Fact]
    public async Task Where_nothing_is_missing_nothing_is_written()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var before = await Images.Hash(disk);
        var (code, _, error) = await KeelProgram.Run("layout", "rescue", disk, "--yes", "--logbook", scratch["logbook"]);
        code.ShouldBe(4);
        error.ShouldContain("Every volume that was found is listed already.");
        error.ShouldContain("--thorough");
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Fact]
    public async Task A_preview_and_a_missing_answer_write_nothing()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "table-missing");
        var before = await Images.Hash(disk);
        await KeelProgram.Run("layout", "rescue", disk, "--preview", "--logbook", scratch["logbook"]);
        (await KeelProgram.Run("layout", "rescue", disk, "--logbook", scratch["logbook"])).ExitCode.ShouldBe(4);
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Theory]
    [InlineData("bios", "2", "recovery", "27")]
    [InlineData("bios", "2", "0x83", "83")]
    [InlineData("bios", "1", "windows", "7")]
    [InlineData("uefi", "4", "windows", "EBD0A0A2-B9E5-4433-87C0-68B6B72699C7")]
    [InlineData("uefi", "1", "efi", "C12A7328-F81F-11D2-BA4B-00A0C93EC93B")]
    public async Task A_partition_gets_another_type(string firmware, string number, string type, string seen)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none", firmware: firmware);
        await KeelProgram.Run("layout", "type", disk, type, "--volume", number, "--yes", "--logbook", scratch["logbook"]);
        (await Tool.MustAgree("sfdisk", "--part-type", disk, number)).Trim().ShouldBe(seen, StringCompareShould.IgnoreCase);
        if (firmware == "uefi") (await Tool.MustAgree("sgdisk", "--verify", disk)).ShouldContain("No problems found");
    }

    [Theory]
    [InlineData("bios", "ntfs", 2)]
    [InlineData("bios", "05", 2)]
    [InlineData("bios", "0", 2)]
    [InlineData("bios", "C12A7328-F81F-11D2-BA4B-00A0C93EC93B", 2)]
    [InlineData("uefi", "07", 2)]
    public async Task What_is_no_type_is_refused_with_what_is_one(string firmware, string type, int expected)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none", firmware: firmware);
        var before = await Images.Hash(disk);
        var (code, _, error) = await KeelProgram.Run("layout", "type", disk, type, "--volume", "1", "--yes");
        code.ShouldBe(expected, error);
        error.ShouldContain("windows");
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Theory]
    [InlineData("empty")]
    [InlineData("text")]
    [InlineData("folder")]
    [InlineData("missing")]
    public async Task Nonsense_gets_a_clear_answer(string kind)
    {
        using var scratch = new Scratch();
        var path = scratch["thing"];
        if (kind == "empty") await File.WriteAllBytesAsync(path, [], TestContext.Current.CancellationToken);
        if (kind == "text") await File.WriteAllTextAsync(path, "the ferry is late\n", TestContext.Current.CancellationToken);
        if (kind == "folder") Directory.CreateDirectory(path);
        foreach (var command in new[] { "show", "rescue" })
        {
            var (code, _, error) = await KeelProgram.Run("layout", command, path);
            code.ShouldBe(3, error);
            error.Split('\n').Length.ShouldBeInRange(3, 8);
            error.ShouldNotContain("Exception");
        }
    }

    [Fact]
    public async Task Two_readings_are_both_shown_and_the_chosen_one_is_written()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "table-missing");
        const int firstMiB = 300, sizeMiB = 32;
        using (var file = File.OpenWrite(disk)) file.SetLength(400L * 1024 * 1024);
        using (var file = File.Create(scratch["part"])) file.SetLength(sizeMiB * 1024L * 1024);
        await Tool.MustAgree("mkfs.fat", "-F", "16", "-h", $"{firstMiB * 2048}", scratch["part"]);
        await Tool.MustAgree(
            "dd", $"if={scratch["part"]}", $"of={disk}", "bs=1M", $"seek={firstMiB}", "conv=notrunc", "status=none");
        var before = await Images.Hash(disk);

        var (code, _, error) = await KeelProgram.Run("layout", "rescue", disk, "--yes", "--logbook", scratch["logbook"]);
        code.ShouldBe(4);
        error.ShouldContain("2:");
        error.ShouldContain("FAT16");
        error.ShouldContain("--reading N");
        (await KeelProgram.Run("layout", "rescue", disk, "--reading", "3")).ExitCode.ShouldBe(2);
        var planned = await KeelProgram.Json(1, "mend", disk, "--preview");
        planned.GetProperty("left")[0].GetProperty("why").GetString()!.ShouldContain("read in two ways");
        (await Images.Hash(disk)).ShouldBe(before);

        await KeelProgram.Run("layout", "rescue", disk, "--reading", "2", "--yes", "--logbook", scratch["logbook"]);
        (await Dump(disk)).ShouldContain(line => line.Contains($"start={firstMiB * 2048,12}"));
        await KeelProgram.Must(0, "undo", disk, "--yes", "--logbook", scratch["logbook"]);
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Fact]
    public async Task A_gpt_that_lost_both_ends_is_whole_for_sgdisk_again()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none", firmware: "uefi");
        await Tool.MustAgree("sgdisk", "--zap", disk);
        var mended = await KeelProgram.Json(0, "mend", disk, "--yes", "--logbook", scratch["logbook"]);
        mended.GetProperty("verdict").GetString().ShouldBe("sound");
        (await Tool.MustAgree("sgdisk", "--verify", disk)).ShouldContain("No problems found");
        var store = await KeelProgram.Json(0, "store", "check", disk);
        store.GetProperty("findings").EnumerateArray()
            .Where(finding => finding.GetProperty("severity").GetString() != "note")
            .ShouldBeEmpty("the store still names the partitions by the identifiers that were put back");
    }

    private static async Task<List<string>> Dump(string disk) =>
        [.. (await Tool.MustAgree("sfdisk", "-d", disk)).Split('\n')
            .Where(line => line.Contains("start=") || line.StartsWith("label-id", StringComparison.Ordinal))
            .Select(line => line[(line.IndexOf(':') + 1)..])];
}
