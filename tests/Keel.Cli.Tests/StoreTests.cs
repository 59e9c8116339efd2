using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>A technician's sequences on boot configuration, through the built program, judged by others' hive readers.</summary>
public sealed class StoreTests
{
    [Fact]
    public async Task Backed_up_set_aside_rebuilt_and_confirmed()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        await Must(scratch, 0, $"store save {disk} {scratch["saved.bcd"]}");
        await Tool.MustAgree("regfinfo", scratch["saved.bcd"]);
        await Must(scratch, 1, $"store create {disk} --yes");
        await Must(scratch, 0, $"store rebuild {disk} --yes");
        await Must(scratch, 0, $"store check {disk}");
        (await Entries(disk)).Count(entry => entry.Type == "Windows").ShouldBe(
            2,
            "one of Windows, one of its recovery environment");
        await Must(scratch, 0, $"store load {disk} {scratch["saved.bcd"]} --yes");
        await Images.StoreXml(disk, scratch);
        (await File.ReadAllBytesAsync(scratch["BCD"])).ShouldBe(await File.ReadAllBytesAsync(scratch["saved.bcd"]));
        (await Emulator.Reaches(disk)).ShouldBeTrue();
        await Images.OthersAgree(disk, scratch);
    }

    [Fact]
    public async Task A_store_is_built_where_there_is_only_a_Windows()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var created = await KeelProgram.Json(
            0,
            "store",
            "rebuild",
            disk,
            "--volume",
            "2",
            "--yes",
            "--logbook",
            scratch["logbook"]);
        created.GetProperty("plan")[0].GetProperty("details").ToString().ShouldContain("volume 2: new");
        var volume = Images.Part(disk, scratch, "windows.volume", 65, 256);
        await Tool.MustAgree("sh", "-c", $"ntfscat -f {volume} Boot/BCD > {scratch["BCD"]}");
        (await Tool.MustAgree("hivexml", scratch["BCD"])).ShouldContain("12000004");
        await Tool.MustAgree("ntfsfix", "-n", volume);
    }

    [Fact]
    public async Task Safe_start_for_the_next_start_alone_and_the_start_up_choices_back()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var before = await Images.Hash(disk);
        await Must(scratch, 0, $"store add like {disk} preferred --title Safe --yes");
        await Must(scratch, 0, $"store change {disk} Safe safe-start=minimal --yes");
        await Must(scratch, 0, $"store change {disk} manager once-only=Safe --yes");
        await Must(scratch, 0, $"store menu {disk} --seconds 15 --always yes --look text --yes");
        var list = await KeelProgram.Must(0, "store", "list", disk);
        list.ShouldContain("The menu has 2 entries and waits 15 seconds.");
        list.ShouldContain("volume:2, \\Windows, winload.exe present");
        (await Setting(disk, "Safe", "safe-start")).ShouldBe("minimal");
        (await Setting(disk, "manager", "once-only")).ShouldBe("Safe");
        (await Setting(disk, "Safe", "menu-look")).ShouldBe("text");
        await Must(scratch, 0, $"store change {disk} Safe safe-start- --yes");
        await Must(scratch, 0, $"store order {disk} Safe 2 --yes");
        (await Entries(disk))[0].Title.ShouldBe("Safe");
        await Must(scratch, 0, $"store drop {disk} Safe --yes");
        (await Entries(disk)).ShouldNotContain(entry => entry.Title == "Safe");
        (await Images.StoreXml(disk, scratch)).ShouldNotContain(">Safe<");
        for (var undone = 0; undone < 7; undone++) await Must(scratch, 0, $"undo {disk} --yes");
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Fact]
    public async Task A_system_that_is_gone_is_removed_with_its_references()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        await Must(scratch, 0, $"store add program {disk} --volume 1 --program-file \\old\\start.exe --title Elsewhere --yes");
        (await KeelProgram.Must(0, "store", "list", disk)).ShouldContain("start.exe MISSING");
        await Must(scratch, 0, $"store prefer {disk} Elsewhere --yes", allowed: 1);
        await Must(scratch, 0, $"store drop {disk} Elsewhere --yes");
        (await KeelProgram.Json(0, "diagnose", disk)).GetProperty("verdict").GetString().ShouldBe("sound");
    }

    [Fact]
    public async Task The_readable_form_loads_back_to_the_same_store()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        await Must(scratch, 0, $"store save {disk} {scratch["a.bcd"]}");
        await Must(scratch, 0, $"store save {disk} {scratch["a.json"]} --as json");
        await Must(scratch, 0, $"store load --file {scratch["b.bcd"]} {scratch["a.json"]} --as json --yes");
        foreach (var judge in (string[])["hivexml", "regfexport"])
            Body(await Tool.MustAgree(judge, scratch["b.bcd"])).ShouldBe(Body(await Tool.MustAgree(judge, scratch["a.bcd"])));
    }

    [Fact]
    public async Task A_store_file_by_itself_is_changed_and_the_old_one_kept()
    {
        using var scratch = new Scratch();
        await Must(scratch, 0, $"store save {await KeelProgram.Practice(scratch, "none")} {scratch["a.bcd"]}");
        var before = await File.ReadAllBytesAsync(scratch["a.bcd"]);
        (await KeelProgram.Run("store", "change", "--file", scratch["a.bcd"], "manager", "menu-seconds=5")).ExitCode.ShouldBe(4);
        (await File.ReadAllBytesAsync(scratch["a.bcd"])).ShouldBe(before);
        await Must(scratch, 0, $"store change --file {scratch["a.bcd"]} manager menu-seconds=5 --yes");
        (await File.ReadAllBytesAsync(scratch["a.bcd.aside1"])).ShouldBe(before);
        (await Tool.MustAgree("hivexml", scratch["a.bcd"])).ShouldContain("BQAAAAAAAAA=");
        await Must(scratch, 0, $"store check --file {scratch["a.bcd"]}");
    }

    [Fact]
    public async Task A_file_device_is_shown_as_it_was_written_and_oddities_are_notes()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        await Must(scratch, 0, $"store add like {disk} 1 --title Image --yes");
        await Must(
            scratch,
            0,
            $"store change {disk} Image program-volume=file:2:\\images\\quay.wim program-file=\\gone.exe --yes");
        (await Setting(disk, "Image", "program-volume")).ShouldBe(@"file:2:\images\quay.wim");
        await Must(scratch, 0, $"store change {disk} Image program-volume=volume:2 --yes");
        var check = await KeelProgram.Json(1, "store", "check", disk);
        check
            .GetProperty("findings")
            .EnumerateArray()
            .Select(finding => (finding.GetProperty("id").GetString(), finding.GetProperty("severity").GetString()))
            .ShouldBe([("entry-target-missing", "note")]);
        (await KeelProgram.Json(0, "diagnose", disk)).GetProperty("verdict").GetString().ShouldBe("sound");
    }

    [Theory]
    [InlineData("change DISK 1 edit-swiches=yes", 2, "edit-switches")]
    [InlineData("change DISK 1 safe-start=fast", 2, "minimal, network, directory-repair")]
    [InlineData("change DISK 1 menu-look=2", 2, "text, graphical")]
    [InlineData("change DISK manager menu-always=maybe", 2, "yes or no")]
    [InlineData("change DISK 1 windows-volume=volume:9", 2, "volume:1, volume:2")]
    [InlineData("change DISK 1", 2, "at least one setting")]
    [InlineData("show DISK Win", 2, "fits 3 entries")]
    [InlineData("show DISK nothing", 2, "No entry is called")]
    [InlineData("drop DISK preferred --yes", 4, "the last entry that starts a system")]
    [InlineData("add windows DISK --volume 1 --yes", 4, "Windows 10 Pro in \\Windows on volume 2")]
    [InlineData("load DISK /etc/passwd --yes", 3, "hive")]
    [InlineData("list --file /nowhere", 3, "not there")]
    public async Task What_cannot_be_done_is_told_with_what_can(string command, int exitCode, string words)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var before = await Images.Hash(disk);
        var (code, _, error) = await KeelProgram.Run([
            "store",
            .. command.Split(' ').Select(word => word == "DISK" ? disk : word),
            "--logbook",
            scratch["logbook"]
        ]);
        code.ShouldBe(exitCode, error);
        error.Replace("\n      ", " ", StringComparison.Ordinal).ShouldContain(words);
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Fact]
    public async Task Stores_that_hivex_makes_are_kept_as_they_are()
    {
        using var scratch = new Scratch();
        await Must(scratch, 0, $"store save {await KeelProgram.Practice(scratch, "none")} {scratch["a.bcd"]}");
        const string script = """
            import hivex, sys
            h = hivex.Hivex(sys.argv[1], write=True)
            o = h.node_get_child(h.root(), 'Objects')
            n = h.node_add_child(o, '{5ea57a1e-0000-4000-8000-000000000001}')
            d = h.node_add_child(n, 'Description'); h.node_set_value(d, {'key': 'Type', 't': 4, 'value': b'\x99\x00\x20\x10'})
            e = h.node_add_child(h.node_add_child(n, 'Elements'), '3f0000aa')
            h.node_set_value(e, {'key': 'Element', 't': 3, 'value': bytes(range(256)) * 60})
            for i in range(700): h.node_add_child(h.node_add_child(e, 'Deep%d' % i), 'x' * (i % 200 + 1))
            h.commit(None)
            """;
        await Tool.MustAgree("/usr/bin/python3", "-c", script, scratch["a.bcd"]);
        await Tool.MustAgree("cp", scratch["a.bcd"], scratch["b.bcd"]);
        await Must(scratch, 0, $"store save --file {scratch["a.bcd"]} {scratch["c.bcd"]}");
        foreach (var judge in (string[])["hivexml", "regfexport"])
            Body(await Tool.MustAgree(judge, scratch["c.bcd"])).ShouldBe(Body(await Tool.MustAgree(judge, scratch["b.bcd"])));
    }

    private static async Task Must(Scratch scratch, int exitCode, string command, int? allowed = null)
    {
        var (code, output, error) = await KeelProgram.Run([.. command.Split(' '), "--logbook", scratch["logbook"]]);
        if (code != allowed) code.ShouldBe(exitCode, $"keel {command} says:\n{output}\n{error}");
    }

    private static async Task<List<(string? Title, string? Type)>> Entries(string disk) =>
        [.. (await KeelProgram.Json(0, "store", "list", disk))
            .GetProperty("entries")
            .EnumerateArray()
            .Select(entry => (entry.GetProperty("title").GetString(), entry.GetProperty("type").GetString()))];

    private static async Task<string?> Setting(string disk, string entry, string name) =>
        (await KeelProgram.Json(0, "store", "show", disk, entry))
            .GetProperty("settings")
            .EnumerateArray()
            .First(setting => setting.GetProperty("name").GetString() == name)
            .GetProperty("value")
            .GetString();

    /// <summary>
    /// What a reader prints, without the name of the file, the time of the file, and offsets; lines sorted, since order in a hive
    /// has no meaning.
    /// </summary>
    private static string Body(string text) =>
        string.Join(
            '\n',
            text
                .Split('\n')
                .Where(line =>
                    !line.Contains("<mtime>", StringComparison.Ordinal) && !line.Contains("regfexport", StringComparison.Ordinal))
                .Order(StringComparer.Ordinal));
}
