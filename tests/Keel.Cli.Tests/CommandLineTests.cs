using System.Text.Json;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>What is typed is read as it was meant, or answered with what was; nothing is passed over.</summary>
public sealed class CommandLineTests
{
    [Theory]
    [InlineData("diag DISK", "diagnose DISK")]
    [InlineData("sto li DISK", "store list DISK")]
    [InlineData("--plain STO list DISK", "store list DISK")]
    [InlineData("--logbook /tmp/no-such-logbook surv DISK", "survey DISK")]
    [InlineData("mb sh DISK", "mbr show DISK")]
    [InlineData("help store once", "store once --help")]
    [InlineData("help diag", "diagnose --help")]
    [InlineData("store menu DISK", "store menu DISK")]
    public async Task Short_forms_do_the_same(string typed, string meant)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var one = await KeelProgram.Run(Words(typed, disk));
        one.ShouldBe(await KeelProgram.Run(Words(meant, disk)));
        one.ExitCode.ShouldBe(0, one.Error);
    }

    [Theory]
    [InlineData("diagnoze DISK", "'keel diagnose'")]
    [InlineData("stroe list DISK", "'keel store'")]
    [InlineData("store lsit DISK", "'keel store list'")]
    [InlineData("s DISK", "survey, sector, store, services, snapshots or stick")]
    [InlineData("store create DISK --preveiw", "--preview")]
    [InlineData("store rebuild DISK --frehs --yes", "--fresh")]
    [InlineData("mend DISK --yse", "--yes")]
    [InlineData("files renew DISK --formt --yes", "--format")]
    [InlineData("survey DISK --verbos", "--verbose")]
    [InlineData("store change DISK 1 -x", "'keel store change --help'")]
    [InlineData("mend DISK extra", "'keel mend --help'")]
    [InlineData("drill new none", "--out is needed")]
    [InlineData("store", "list, show, check")]
    [InlineData("services change DISK disk late", "boot, system, automatic, demand or disabled")]
    [InlineData("survey DISK --firmware blue", "bios or uefi")]
    [InlineData("store menu DISK --look ugly", "text or graphical")]
    [InlineData("frobnicate", "'keel --help'")]
    [InlineData("logbook finsh DISK", "'keel logbook finish'")]
    [InlineData("logbook fin DISK", "nothing to finish")]
    [InlineData("mend DISK --prev", "--preview")]
    [InlineData("diagnose DISK --code=", "--code needs a value")]
    [InlineData("diagnose ''", "got an empty word")]
    [InlineData("diagnose DISK --variables ''", "--variables needs a value")]
    [InlineData("report DISK --out ''", "--out needs a value")]
    [InlineData("drill new none --out ''", "--out needs a value")]
    [InlineData("files take DISK \\\\bootmgr ''", "got an empty word")]
    [InlineData("mend DISK --yes --logbook ''", "--logbook needs a value")]
    [InlineData("store menu DISK --seconds 15 --seconds 20", "more than once")]
    [InlineData("store change DISK 1 menu-seconds=5", "keel store change DISK manager menu-seconds=VALUE")]
    [InlineData("store change DISK 1 title=", "title- to remove it")]
    [InlineData("store change DISK 1 title=a\u0001b", "control characters")]
    public async Task A_slip_is_answered_with_what_was_meant_and_writes_nothing(string typed, string words)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var before = await Images.Hash(disk);
        var (code, output, error) = await KeelProgram.Run(Words(typed, disk));
        code.ShouldBe(2, output + error);
        error.Replace("\n      ", " ", StringComparison.Ordinal).ShouldContain(words);
        error.Split('\n').ShouldAllBe(line => line.Length <= 80);
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Fact]
    public async Task Attributes_with_a_minus_are_no_options_and_new_file_systems_are_never_a_slip()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var said = await KeelProgram.Must(0, "files", "mark", disk, @"\Boot\BCD", "-hidden", "-system", "-archive", "--preview");
        said.ShouldContain("archive becomes none");
        var (code, _, error) = await KeelProgram.Run("files", "renew", disk, "--format", "--yes");
        code.ShouldBe(2);
        error.ShouldContain("--format needs a value");
    }

    [Theory]
    [InlineData("survey DISK.gone", 3)]
    [InlineData("store show DISK 99", 2)]
    [InlineData("diagnoze DISK", 2)]
    [InlineData("store menu DISK --seconds 3", 4)]
    public async Task Failures_are_json_where_that_was_asked_for(string typed, int exit)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var (code, output, error) = await KeelProgram.Run([.. Words(typed, disk), "--format", "json"]);
        code.ShouldBe(exit);
        error.ShouldNotBeEmpty();
        var failure = JsonDocument.Parse(output).RootElement.GetProperty("error");
        failure.GetProperty("exit").GetInt32().ShouldBe(exit);
        failure.GetProperty("what").GetString().ShouldNotBeNullOrEmpty();
    }

    [Theory]
    [InlineData("always", true)]
    [InlineData("never", false)]
    [InlineData("auto", false)]
    public async Task Colours_come_when_they_are_wanted(string when, bool expected)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var printed = await KeelProgram.Must(0, "diagnose", disk, "--color", when);
        printed.Contains('\u001b', StringComparison.Ordinal).ShouldBe(expected);
    }

    [Theory]
    [InlineData("store menu DISK --seconds 30")]
    [InlineData("store prefer DISK 1")]
    [InlineData("files mark DISK \\Boot\\BCD +archive")]
    [InlineData("mbr rewrite DISK")]
    [InlineData("mbr activate DISK --volume 1")]
    public async Task A_request_that_changes_nothing_says_so_and_asks_nothing(string typed)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var before = await Images.Hash(disk);
        (await KeelProgram.Must(0, Words(typed, disk))).ShouldContain("changes nothing");
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Fact]
    public async Task Several_repairs_are_listed_and_taken_back_by_number()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "mbr-code-wiped");
        var book = scratch["logbook"];
        var sound = await Images.Hash(disk);
        await KeelProgram.Must(1, "store", "menu", disk, "--seconds", "7", "--yes", "--logbook", book);
        var between = await Images.Hash(disk);
        await KeelProgram.Must(0, "mbr", "rewrite", disk, "--yes", "--logbook", book);
        await KeelProgram.Must(0, "store", "menu", disk, "--seconds", "9", "--yes", "--logbook", book);

        var (code, _, list) = await KeelProgram.Run("undo", disk, "--preview", "--logbook", book);
        code.ShouldBe(0);
        list.ShouldContain("Repairs that were not taken back: 3");
        (code, _, list) = await KeelProgram.Run("undo", disk, "3", "--yes", "--logbook", book);
        code.ShouldBe(4);
        list.Replace("\n      ", " ", StringComparison.Ordinal).ShouldContain("Later ones wrote to the same places: 1.");
        (await KeelProgram.Run("undo", disk, "4", "--yes", "--logbook", book)).ExitCode.ShouldBe(2);
        await KeelProgram.Must(0, "undo", disk, "1", "--yes", "--logbook", book);
        await KeelProgram.Must(0, "undo", disk, "1", "--yes", "--logbook", book);
        (await Images.Hash(disk)).ShouldBe(between);
        await KeelProgram.Must(0, "undo", disk, "--yes", "--logbook", book);
        (await Images.Hash(disk)).ShouldBe(sound);
    }

    [Theory]
    [InlineData("1", null, "Windows 10 Pro", 2)]
    [InlineData("1", "minimal", "Windows 10 Pro (safe start)", 3)]
    [InlineData("1", "network", "Windows 10 Pro (safe start)", 3)]
    [InlineData("memory", null, "Memory test", 2)]
    public async Task An_entry_starts_once_and_a_second_time_changes_nothing(string entry, string? safe, string title, int lines)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        string[] command = ["store", "once", disk, entry, .. safe is null ? Array.Empty<string>() : ["--safe", safe]];
        await KeelProgram.Must(0, [.. command, "--yes", "--logbook", scratch["logbook"]]);
        var list = await KeelProgram.Must(0, "store", "list", disk);
        var once = list.Split('\n').Single(line => line.Contains("once", StringComparison.Ordinal));
        once.ShouldContain(title);
        if (safe is not null) once.ShouldContain("safe");
        (await KeelProgram.Must(0, [.. command, "--yes", "--logbook", scratch["logbook"]])).ShouldContain("changes nothing");
        var changed = (await KeelProgram.Json(0, "store", "show", disk, "manager")).GetProperty("settings").EnumerateArray()
            .Count(setting => setting.GetProperty("name").GetString() == "once-only");
        changed.ShouldBe(1);
        lines.ShouldBeGreaterThan(0);
        await Images.OthersAgree(disk, scratch);
    }

    [Fact]
    public async Task A_store_is_made_by_hand_step_by_step_and_starts()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        foreach (var step in (string[])[
            "store create DISK",
            "store add windows DISK --volume 2 --title Wheelhouse",
            "store add recovery DISK",
            "store change DISK Wheelhouse program-volume=2 windows-volume=volume:2",
            "store menu DISK --seconds 12 --always yes",
            "store prefer DISK Wheelhouse"
        ])
        {
            var (code, output, error) = await KeelProgram.Run([.. Words(step, disk), "--yes", "--logbook", scratch["logbook"]]);
            code.ShouldBeOneOf([0, 1], $"{step}\n{output}{error}");
        }

        (await KeelProgram.Json(0, "diagnose", disk)).GetProperty("verdict").GetString().ShouldBe("sound");
        (await Images.StoreXml(disk, scratch)).ShouldContain("Wheelhouse");
        (await KeelProgram.Run("store", "order", disk, "manager", "--yes")).ExitCode.ShouldBe(4);
        (await KeelProgram.Run("store", "once", disk, "manager", "--yes")).ExitCode.ShouldBe(4);
    }

    private static string[] Words(string typed, string disk) =>
        [.. typed.Split(' ').Select(word => word == "''" ? "" : word.Replace("DISK", disk, StringComparison.Ordinal))];
}
