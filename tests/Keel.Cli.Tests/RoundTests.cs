using System.Diagnostics;
using System.Globalization;
using System.Text.Json;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>Rounds over many machines: each target once, whatever stops them, and one tally of all parts.</summary>
public sealed class RoundTests
{
    private const string Logbook = "--logbook";

    [Fact]
    public async Task A_page_has_every_name_once_and_every_bar()
    {
        using var scratch = new Scratch();
        foreach (var fault in (string[])["none", "store-missing", "mbr-code-wiped", "manager-missing"])
            await KeelProgram.Practice(scratch, fault, $"{fault}.img");
        string[] disks = [.. Directory.GetFiles(scratch.Folder, "*.img")];
        await KeelProgram.Must(0, ["round", .. disks, "--out", scratch["round"]]);
        await KeelProgram.Must(0, "round", "tally", scratch["round"], "--out", scratch["page.html"]);
        var page = await File.ReadAllTextAsync(scratch["page.html"], TestContext.Current.CancellationToken);
        var names = System.Text.RegularExpressions.Regex.Matches(
            page,
            " id=\"([^\"]*)\"").Select(match => match.Groups[1].Value).ToList();
        names.ShouldBeUnique();
        names.Count.ShouldBeGreaterThan(3);
        foreach (var meant in System.Text.RegularExpressions.Regex.Matches(
            page,
            "url\\(#([^)]*)\\)").Select(match => match.Groups[1].Value))
            names.ShouldContain(meant);
    }

    [Fact]
    public async Task One_disk_with_two_names_is_looked_at_once()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        File.CreateSymbolicLink(scratch["link.img"], "disk.img");
        await Tool.MustAgree("ln", disk, scratch["hard.img"]);
        var said = await KeelProgram.Must(0, "round", disk, scratch["link.img"], scratch["hard.img"], "--out", scratch["round"]);
        said.ShouldContain("1 of 1 looked at");
    }

    [Fact]
    public async Task A_round_in_parts_takes_names_with_blanks()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none", "a disk.img");
        await File.WriteAllTextAsync(scratch["a list"], $"{disk}\n", TestContext.Current.CancellationToken);
        var script = Path.Combine(KeelProgram.Root(), "docs", "rounds", "parts");
        string[] words = [$"KEEL={KeelProgram.Path}", script, "parallel", scratch["a list"], scratch["pa r; touch x"], "2"];
        await Tool.MustAgree("env", words);
        Directory.GetFiles(scratch["pa r; touch x"], "*.jsonl").Length.ShouldBe(2);
        Directory.GetFileSystemEntries(scratch.Folder).Length.ShouldBe(3);
    }

    [Fact]
    public async Task Every_target_gets_one_line_and_what_is_bad_stops_nothing()
    {
        using var scratch = new Scratch();
        var images = await MakeImages(scratch, 12);
        await KeelProgram.Must(0, "round", images, "--out", scratch["round"]);
        var lines = await Lines(scratch["round"]);
        lines.Count.ShouldBe(14);
        Verdicts(lines).ShouldBe([("broken", 6), ("sound", 6), ("unreadable", 2)]);
        lines.Where(line => Text(line, "verdict") == "broken").ShouldAllBe(line =>
            line.GetProperty("findings")[0].GetString() == "store-missing" && Text(line, "afterPlan") == "sound");
        var again = await KeelProgram.Must(0, "round", images, "--out", scratch["round"]);
        again.ShouldContain("14 were done before, 0 now");
        (await Lines(scratch["round"])).Count.ShouldBe(14);
    }

    [Fact]
    public async Task A_line_that_was_cut_off_is_done_again()
    {
        using var scratch = new Scratch();
        var images = await MakeImages(scratch, 6);
        await KeelProgram.Must(0, "round", images, "--out", scratch["round"]);
        var file = Path.Combine(scratch["round"], "round.jsonl");
        var whole = await File.ReadAllBytesAsync(file, TestContext.Current.CancellationToken);
        foreach (var cut in new[] { 0, 1, whole.Length / 2, whole.Length - 1 })
        {
            await File.WriteAllBytesAsync(file, whole[..cut], TestContext.Current.CancellationToken);
            await KeelProgram.Must(0, "round", images, "--out", scratch["round"]);
            (await Lines(scratch["round"])).Select(line => Text(line, "target")).Distinct().Count().ShouldBe(8);
            (await Lines(scratch["round"])).Count.ShouldBe(8);
        }
    }

    [Fact]
    public async Task A_round_that_is_killed_goes_on()
    {
        using var scratch = new Scratch();
        var images = await MakeImages(scratch, 60);
        for (var time = 0; time < 3; time++)
        {
            using var process = Process.Start(KeelProgram.Path, ["round", images, "--out", scratch["round"], "--jobs", "1"]);
            await Task.Delay(150, TestContext.Current.CancellationToken);
            process.Kill();
            await process.WaitForExitAsync(TestContext.Current.CancellationToken);
        }

        await KeelProgram.Must(0, "round", images, "--out", scratch["round"]);
        var lines = await Lines(scratch["round"]);
        lines.Count.ShouldBe(62);
        lines.Select(line => Text(line, "target")).Distinct().Count().ShouldBe(62);
    }

    /// <summary>As the kernel does where memory is short: whoever it hits, no target is lost for it.</summary>
    [Fact]
    public async Task A_process_that_is_ended_from_outside_loses_nothing()
    {
        using var scratch = new Scratch();
        var images = await MakeImages(scratch, 60);
        using var process = Process.Start(
            new ProcessStartInfo(KeelProgram.Path, ["round", images, "--out", scratch["round"], "--jobs", "1"])
            {
                UseShellExecute = false,
                RedirectStandardOutput = true
            })!;
        var killed = 0;
        for (var done = 0; killed < 5 && !process.HasExited; done = await CountedLines(scratch["round"]))
        {
            while (!process.HasExited && await CountedLines(scratch["round"]) < done + 2)
                await Task.Delay(5, TestContext.Current.CancellationToken);
            if ((await Tool.Run("pkill", "-9", "-P", $"{process.Id}")).ExitCode == 0) killed++;
        }

        killed.ShouldBeGreaterThan(0);

        await process.WaitForExitAsync(TestContext.Current.CancellationToken);
        process.ExitCode.ShouldBe(0);
        var lines = await Lines(scratch["round"]);
        lines.Select(line => Text(line, "target")).Distinct().Count().ShouldBe(62);
        Verdicts(lines).ShouldBe([("broken", 30), ("sound", 30), ("unreadable", 2)]);
    }

    [Fact]
    public async Task Parts_come_to_the_same_table_as_the_whole()
    {
        using var scratch = new Scratch();
        var images = await MakeImages(scratch, 9);
        await File.WriteAllLinesAsync(
            scratch["list"],
            Directory.GetFiles(images).Order(StringComparer.Ordinal),
            TestContext.Current.CancellationToken);
        await KeelProgram.Must(0, "round", images, "--out", scratch["whole"]);
        for (var part = 1; part <= 3; part++)
            await KeelProgram.Must(0, "round", "--list", scratch["list"], "--shard", $"{part}/3", "--out", scratch["parts"]);
        string[] files = ["--out", scratch["whole.csv"], "--out", scratch["whole.html"]];
        await KeelProgram.Must(0, ["round", "tally", scratch["whole"], .. files]);
        await KeelProgram.Must(0, "round", "tally", scratch["parts"], "--out", scratch["parts.csv"]);
        var table = await File.ReadAllTextAsync(scratch["whole.csv"], TestContext.Current.CancellationToken);
        (await File.ReadAllTextAsync(scratch["parts.csv"], TestContext.Current.CancellationToken)).ShouldBe(table);
        table.Split("\r\n", StringSplitOptions.RemoveEmptyEntries).Length.ShouldBe(12);
        await Tool.MustAgree("tidy", "-q", "-e", scratch["whole.html"]);
        var page = await File.ReadAllTextAsync(scratch["whole.html"], TestContext.Current.CancellationToken);
        page.ShouldContain("<svg");
        page.ShouldContain("store-missing");
        page.ShouldNotContain("<script");
    }

    [Fact]
    public async Task Only_what_loses_nothing_is_mended_and_each_has_a_record()
    {
        using var scratch = new Scratch();
        Directory.CreateDirectory(scratch["images"]);
        foreach (var fault in new[] { "store-missing", "system-hive-damaged", "none" })
            await KeelProgram.Practice(Path.Combine(scratch["images"], $"{fault}.img"), fault);
        var hive = await Images.Hash(Path.Combine(scratch["images"], "system-hive-damaged.img"));
        string[] safe = ["--mend", "safe", Logbook, scratch["log"]];
        await KeelProgram.Must(0, ["round", scratch["images"], "--out", scratch["round"], .. safe]);
        var lines = (await Lines(scratch["round"])).ToDictionary(line => Path.GetFileName(Text(line, "target"))!);
        Text(lines["store-missing.img"], "afterMend").ShouldBe("sound");
        lines["system-hive-damaged.img"].TryGetProperty("record", out _).ShouldBeFalse();
        lines["none.img"].TryGetProperty("record", out _).ShouldBeFalse();
        (await Images.Hash(Path.Combine(scratch["images"], "system-hive-damaged.img"))).ShouldBe(hive);
        var mended = Path.Combine(scratch["images"], "store-missing.img");
        (await Emulator.Reaches(mended)).ShouldBeTrue();
        await KeelProgram.Must(0, "undo", mended, "--yes", Logbook, scratch["log"]);
        (await KeelProgram.Run("diagnose", mended)).ExitCode.ShouldBe(1);
    }

    [Fact]
    public async Task Two_rounds_into_one_folder_do_not_mix()
    {
        using var scratch = new Scratch();
        Directory.CreateDirectory(scratch["round"]);
        await using var held = new FileStream(
            Path.Combine(scratch["round"], "round.jsonl"), FileMode.Create, FileAccess.ReadWrite, FileShare.None);
        var (code, _, error) = await KeelProgram.Run("round", scratch["any.img"], "--out", scratch["round"]);
        code.ShouldBe(3);
        error.ShouldContain("no other round");
    }

    [Theory]
    [InlineData("round", "x.img")]                                 // no folder
    [InlineData("round", "--out", "ROUND")]                        // no target
    [InlineData("round", "x.img", "--out", "ROUND", "--shard", "0/4")]
    [InlineData("round", "x.img", "--out", "ROUND", "--shard", "5/4")]
    [InlineData("round", "x.img", "--out", "ROUND", "--shard", "1")]
    [InlineData("round", "x.img", "--out", "ROUND", "--jobs", "0")]
    [InlineData("round", "x.img", "--out", "ROUND", "--jobs", "many")]
    [InlineData("round", "tally", "ROUND", "--out", "a.txt")]
    public async Task Slips_are_told(params string[] words)
    {
        using var scratch = new Scratch();
        var (code, _, error) = await KeelProgram.Run([.. words.Select(word => word == "ROUND" ? scratch["round"] : word)]);
        code.ShouldBe(2, error);
        error.ShouldStartWith("keel: ");
    }

    [Fact]
    public async Task A_round_that_is_kept_among_the_images_does_not_look_at_itself()
    {
        using var scratch = new Scratch();
        var images = await MakeImages(scratch, 2);
        for (var time = 0; time < 2; time++) await KeelProgram.Must(0, "round", images, "--out", images);
        (await Lines(images)).Count.ShouldBe(4);
        (await Lines(images)).ShouldNotContain(line => Text(line, "target")!.EndsWith(".jsonl", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_list_is_read_as_people_write_them()
    {
        using var scratch = new Scratch();
        var folder = await MakeImages(scratch, 2);
        var images = Directory.GetFiles(folder, "machine*.img").Order(StringComparer.Ordinal).ToArray();
        var odd = Path.Combine(folder, "odd name ");
        File.Copy(images[0], odd);
        await File.WriteAllTextAsync(
            scratch["list"],
            $"# the pier\r\n\r\n  {images[0]}  \r\n\t# {images[1]}\n{images[1]}\n{odd}\n{images[0]}",
            TestContext.Current.CancellationToken);
        await KeelProgram.Must(0, "round", "--list", scratch["list"], "--out", scratch["round"]);
        (await Lines(scratch["round"])).Select(line => Text(line, "target"))
            .ShouldBe([images[0], images[1], odd], ignoreOrder: true);
    }

    [Fact]
    public async Task A_disk_in_place_of_the_list_is_told()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        foreach (var list in new[] { disk, "/dev/zero", scratch.Folder, scratch["gone"] })
        {
            var (code, _, error) = await KeelProgram.Run("round", "--list", list, "--out", scratch["round"]);
            code.ShouldBe(3, error);
            error.ShouldContain("The list");
        }
    }

    [Fact]
    public async Task What_could_not_be_read_is_named_with_its_reason()
    {
        using var scratch = new Scratch();
        var targets = Enumerable.Range(1, 12).Select(number => scratch[$"gone{number}.img"]).ToArray();
        await KeelProgram.Must(0, ["round", .. targets, "--out", scratch["round"]]);
        var said = await KeelProgram.Must(0, "round", "tally", scratch["round"]);
        said.ShouldContain("gone1.img is not there");
        said.ShouldContain("and 2 others");
    }

    [Fact]
    public async Task A_table_carries_no_formula_and_a_page_no_script()
    {
        using var scratch = new Scratch();
        Directory.CreateDirectory(scratch["round"]);
        await File.WriteAllTextAsync(
            Path.Combine(scratch["round"], "round.jsonl"),
            """
            {"target":"=HYPERLINK(\"x\")","verdict":"broken","findings":["<script>alert(1)</script>"]}
            {"target":"/a,b\"c","verdict":"sound"}
            not a line
            {"verdict":"sound"}

            """,
            TestContext.Current.CancellationToken);
        await KeelProgram.Must(0, "round", "tally", scratch["round"], "--out", scratch["a.csv"], "--out", scratch["a.html"]);
        var table = await File.ReadAllTextAsync(scratch["a.csv"], TestContext.Current.CancellationToken);
        table.ShouldContain("\"'=HYPERLINK(\"\"x\"\")\"");
        table.ShouldContain("\"/a,b\"\"c\"");
        (await File.ReadAllTextAsync(scratch["a.html"], TestContext.Current.CancellationToken)).ShouldNotContain("<script");
    }

    [Fact]
    public async Task A_page_over_a_large_fleet_says_what_it_leaves_out()
    {
        using var scratch = new Scratch();
        Directory.CreateDirectory(scratch["round"]);
        await File.WriteAllLinesAsync(
            Path.Combine(scratch["round"], "round.jsonl"),
            Enumerable.Range(1, 6000).Select(number =>
                $$"""{"target":"/fleet/{{number:0000}}.img","verdict":"broken","findings":["store-missing"]}"""),
            TestContext.Current.CancellationToken);
        await KeelProgram.Must(0, "round", "tally", scratch["round"], "--out", scratch["a.html"], "--out", scratch["a.csv"]);
        var page = await File.ReadAllTextAsync(scratch["a.html"], TestContext.Current.CancellationToken);
        page.ShouldContain("Not sound (6000)");
        page.ShouldContain("all of them are in a table");
        page.Length.ShouldBeLessThan(2_000_000);
        (await File.ReadAllLinesAsync(scratch["a.csv"], TestContext.Current.CancellationToken)).Length.ShouldBe(6001);
    }

    /// <summary>By another program, since the round keeps its file to itself.</summary>
    private static async Task<int> CountedLines(string folder)
    {
        var (_, count, _) = await Tool.Run("sh", "-c", $"cat {folder}/*.jsonl 2>/dev/null | wc -l");
        return int.Parse(count, CultureInfo.InvariantCulture);
    }

    /// <summary>Machines of which every second is broken, and two files that are no disks.</summary>
    private static async Task<string> MakeImages(Scratch scratch, int count)
    {
        var folder = scratch["images"];
        Directory.CreateDirectory(folder);
        foreach (var fault in new[] { "none", "store-missing" })
            await KeelProgram.Practice(scratch[fault], fault);
        for (var number = 0; number < count; number++)
        {
            var source = scratch[number % 2 == 0 ? "none" : "store-missing"];
            await Tool.MustAgree("cp", "--sparse=always", source, Path.Combine(folder, $"machine-{number:000}.img"));
        }

        await File.WriteAllTextAsync(Path.Combine(folder, "notes.txt"), "tide tables", TestContext.Current.CancellationToken);
        await File.WriteAllBytesAsync(Path.Combine(folder, "empty.img"), [], TestContext.Current.CancellationToken);
        return folder;
    }

    private static async Task<List<JsonElement>> Lines(string folder) =>
    [
        .. (await File.ReadAllLinesAsync(Path.Combine(folder, "round.jsonl"), TestContext.Current.CancellationToken))
            .Select(line => JsonDocument.Parse(line).RootElement)
    ];

    private static string? Text(JsonElement line, string name) => line.GetProperty(name).GetString();

    private static IEnumerable<(string?, int)> Verdicts(IEnumerable<JsonElement> lines) =>
        lines.GroupBy(line => Text(line, "verdict")).Select(group => (group.Key, group.Count())).OrderBy(pair => pair.Key);
}
