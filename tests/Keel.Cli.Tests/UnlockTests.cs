using System.Text.Json;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>Keys of encrypted volumes at the prompt: from files, from a list, typed; never shown, never kept.</summary>
public sealed class UnlockTests
{
    private const string Sound = "SOUND", Locked = "DOUBTFUL at windows-volume";

    [Fact]
    public async Task Without_a_key_it_says_what_opens_it_and_what_to_type()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "volume-encrypted");
        var said = await KeelProgram.Must(1, "diagnose", disk);
        said.ShouldStartWith(Locked);
        said.ShouldContain("recovery key A06A2517");
        said.TrimEnd().ShouldEndWith("--unlock -");
        said.ShouldNotContain("Installations found: 0");
        var survey = await KeelProgram.Must(0, "survey", disk);
        survey.ShouldContain("opened by the TPM, the\n    recovery key A06A2517");
        survey.ShouldContain("locked");
        (await KeelProgram.Must(1, "mend", disk, "--yes", "--logbook", scratch["logbook"])).ShouldContain("A06A2517");
    }

    [Fact]
    public async Task With_its_key_the_whole_chain_is_walked()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "volume-encrypted");
        (await KeelProgram.Must(0, "diagnose", disk, "--unlock", $"{disk}.key")).ShouldStartWith(Sound);
        var list = scratch["keys"];
        var key = (await File.ReadAllTextAsync($"{disk}.key")).Trim();
        await File.WriteAllTextAsync(list, $"# of the ferries\n00000000 {key}\nA06A2517 {key}\n");
        (await KeelProgram.Must(0, "diagnose", disk, "--keys", list)).ShouldStartWith(Sound);
        var survey = await KeelProgram.Json(0, "survey", disk, "--keys", list);
        var windows = survey.GetProperty("disks")[0].GetProperty("partitions")[1];
        windows.GetProperty("fileSystem").GetString().ShouldBe("NTFS");
        windows.GetProperty("encryption").GetProperty("unlocked").GetBoolean().ShouldBeTrue();
        windows.GetProperty("encryption").GetProperty("openedBy").GetString()!.ShouldStartWith("a06a2517");
    }

    [Fact]
    public async Task A_list_that_the_environment_names_serves_every_command()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "volume-encrypted");
        var list = scratch["keys"];
        await File.WriteAllTextAsync(list, $"A06A2517 {(await File.ReadAllTextAsync($"{disk}.key")).Trim()}\n");
        Task<(int ExitCode, string Output, string Error)> WithList(params string[] words) =>
            Tool.Run("env", [$"KEEL_KEYS={list}", KeelProgram.Path, .. words]);
        (await WithList("diagnose", disk)).Output.ShouldStartWith(Sound);
        (await WithList("services", "list", disk)).ExitCode.ShouldBe(0);
        (await WithList("round", disk, "--out", scratch["round"])).Output.ShouldContain("1 sound");

        await File.WriteAllTextAsync(list, "A06A2517 616319-601744-5021\n");
        var wrong = await WithList("diagnose", disk);
        wrong.Output.ShouldStartWith(Locked);
        wrong.Error.ReplaceLineEndings(" ").ShouldContain("KEEL_KEYS names it; this goes on without it.");
        wrong.Error.ShouldNotContain("616319");
    }

    [Theory]
    [InlineData("616319-601744-502117-534017-367994-176748-607299-663201", "opens no volume here", "A06A2517")]
    [InlineData("616319-601744-502118-534017-367994-176748-607299-663201", "is not right", "Group 3 of 8")]
    [InlineData("", "There is no key", "empty")]
    [InlineData("two\nlines", "There is no key", "several lines")]
    public async Task A_wrong_key_is_a_slip_and_said(string content, string what, string why)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "volume-encrypted");
        await File.WriteAllTextAsync(scratch["key"], content);
        var (code, output, error) = await KeelProgram.Run("diagnose", disk, "--unlock", scratch["key"]);
        code.ShouldBe(2);
        output.ShouldBeEmpty();
        error.ReplaceLineEndings(" ").Replace("  ", " ", StringComparison.Ordinal).ShouldContain(what);
        error.ShouldContain(why);
        if (content.Length > 20) error.ShouldNotContain(content[..20]);
    }

    [Theory]
    [InlineData("/nowhere/key", "There is no such file")]
    [InlineData("/tmp", "is a folder")]
    [InlineData("616319-601744-502117-534017-367994-176748-607299-663201", "not taken from the command line")]
    [InlineData("-", "Nobody is there")]
    public async Task What_is_no_file_with_a_key_is_refused_with_the_reason(string word, string why)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "volume-encrypted");
        var (code, _, error) = await KeelProgram.Run("diagnose", disk, "--unlock", word);
        code.ShouldBe(2);
        error.ShouldContain(why);
        error.ShouldNotContain("616319");
    }

    [Fact]
    public async Task Typed_it_is_not_shown_and_a_slip_costs_one_group()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "volume-encrypted");
        var key = (await File.ReadAllTextAsync($"{disk}.key")).Trim();
        var groups = key.Split('-');
        var right = groups[4];
        groups[4] = "123456";
        var (code, output) = await Answers.Give(
            $"{KeelProgram.Path} diagnose {disk} --unlock -",
            $"{string.Join(' ', groups)}\\n",
            $"{right}\\n");
        code.ShouldBe(0, output);
        output.ShouldContain("Group 5 of 8");
        output.ShouldContain(Sound);
        foreach (var group in groups.Append(right)) output.ShouldNotContain(group);
    }

    /// <summary>A repair behind the lock: nothing of the key is in the logbook, the report or the JSON.</summary>
    [Fact]
    public async Task The_key_is_kept_nowhere()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "encrypted-loader-missing");
        var before = await Images.Hash(disk);
        var key = (await File.ReadAllTextAsync($"{disk}.key")).Trim();
        string[] log = ["--logbook", scratch["logbook"]];
        var said = await KeelProgram.Must(0, ["mend", disk, "--yes", "--unlock", $"{disk}.key", "--format", "json", .. log]);
        await KeelProgram.Must(0, "report", disk, "--unlock", $"{disk}.key", "--out", scratch["report.html"]);
        string[] told =
        [
            said,
            await File.ReadAllTextAsync(scratch["report.html"]),
            .. Directory.GetFiles(scratch["logbook"], "*", SearchOption.AllDirectories).Select(File.ReadAllText)
        ];
        foreach (var text in told)
        {
            text.ShouldNotContain(key);
            text.ShouldNotContain(key.Replace("-", "", StringComparison.Ordinal));
            text.ShouldNotContain(key[..20]);
        }

        await KeelProgram.Must(0, ["undo", disk, "--yes", .. log]);         // no key: the way back holds what the disk held
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Theory]
    [InlineData("files look DISK 2:")]
    [InlineData(@"files take DISK \Windows\System32\config\SYSTEM OUT")]
    [InlineData("files put DISK DISK.key 2:x.txt --yes")]
    [InlineData("files renew DISK --volume 2 --yes")]
    [InlineData("sector show DISK --volume 2")]
    [InlineData("sector rewrite DISK --volume 2 --replace-foreign --yes")]
    [InlineData("sector restore DISK --volume 2 --yes")]
    [InlineData("services list DISK")]
    [InlineData("programs list DISK")]
    [InlineData("history DISK")]
    public async Task What_lies_behind_the_lock_is_said_to_and_how_to_go_on(string command)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "volume-encrypted");
        var before = await Images.Hash(disk);
        string[] words =
        [
            .. command.Split(' ').Select(word => word.Replace("DISK", disk, StringComparison.Ordinal)
                .Replace("OUT", scratch["out"], StringComparison.Ordinal))
        ];
        var (code, _, error) = await KeelProgram.Run([.. words, "--logbook", scratch["logbook"]]);
        code.ShouldBeOneOf(3, 4);
        string.Join(' ', error.Split((char[])[' ', '\n'], StringSplitOptions.RemoveEmptyEntries)).ShouldContain("olume 2 is ");
        error.ShouldContain("--unlock -");
        (await Images.Hash(disk)).ShouldBe(before);
    }

    /// <summary>The screen said is the recovery prompt: what makes it ask is mended, which is left alone otherwise.</summary>
    [Fact]
    public async Task Where_the_recovery_prompt_is_the_trouble_what_makes_it_ask_is_mended()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "encrypted-recovery-prompt");
        string[] key = ["--unlock", $"{disk}.key", "--logbook", scratch["logbook"]];
        var usual = await KeelProgram.Json(1, ["diagnose", disk, .. key]);
        FaultMatrix.Findings(usual, "note").ShouldContain("prompt-by-settings");
        Steps(usual).ShouldBe(["entry-debugger-let-in"]);
        var asked = await KeelProgram.Json(1, ["diagnose", disk, "--code", "enter the recovery key for this drive", .. key]);
        Steps(asked).ShouldContain("prompt-by-settings");
        await KeelProgram.Must(0, ["mend", disk, "--code", "enter the recovery key for this drive", "--yes", .. key]);
        var after = await KeelProgram.Json(0, ["diagnose", disk, .. key]);
        FaultMatrix.Findings(after, "note").ShouldNotContain("prompt-by-settings");
        FaultMatrix.Findings(after, "note").ShouldNotContain("entry-test-signatures");
    }

    private static string[] Steps(JsonElement diagnosis) =>
        [.. diagnosis.GetProperty("plan").EnumerateArray().Select(step => step.GetProperty("finding").GetString()!)];

    [Fact]
    public async Task While_a_key_is_in_memory_others_may_not_look_into_it()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "volume-encrypted");
        var traced = scratch["trace"];
        await Tool.MustAgree(
            "strace",
            "-f",
            "-o",
            traced,
            "-e",
            "trace=prctl,mlock,madvise,prlimit64,setrlimit",
            KeelProgram.Path,
            "diagnose",
            disk,
            "--unlock",
            $"{disk}.key");
        var calls = await File.ReadAllTextAsync(traced);
        calls.ShouldContain("PR_SET_DUMPABLE, SUID_DUMP_DISABLE");
        calls.ShouldContain("mlock(");
        calls.ShouldContain("MADV_DONTDUMP");
        calls.ShouldContain("RLIMIT_CORE, {rlim_cur=0, rlim_max=0}");
    }

    [Fact]
    public async Task A_round_opens_what_its_list_has_keys_for()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "encrypted-loader-missing");
        var key = (await File.ReadAllTextAsync($"{disk}.key")).Trim();
        await File.WriteAllTextAsync(scratch["keys"], $"A06A2517 {key}\n");
        string[] round = ["round", disk, "--mend", "safe", "--logbook", scratch["logbook"]];
        await KeelProgram.Must(0, [.. round, "--out", scratch["locked"]]);
        Line(scratch["locked"]).GetProperty("verdict").GetString().ShouldBe("doubtful");
        await KeelProgram.Must(0, [.. round, "--out", scratch["open"], "--keys", scratch["keys"]]);
        var line = Line(scratch["open"]);
        line.GetProperty("verdict").GetString().ShouldBe("broken");
        line.GetProperty("stopsAt").GetString().ShouldBe("loader-file");
        line.GetProperty("afterMend").GetString().ShouldBe("sound");
    }

    [Fact]
    public async Task The_guided_session_asks_for_the_key_where_the_chain_goes_on_behind_the_lock()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "encrypted-loader-missing");
        var key = (await File.ReadAllTextAsync($"{disk}.key")).Trim();
        await using var terminal = await Terminal80.Open(scratch);
        await terminal.Type("keel", "Enter");
        await terminal.Until(screen => screen.Contains("Which disk", StringComparison.Ordinal));
        var first = await terminal.Until(screen => screen.Contains("type it", StringComparison.Ordinal));
        var row = first.Split('\n').First(row => row.Contains("type it", StringComparison.Ordinal));
        await terminal.Type(row.Trim(' ', '>')[..1], "Enter");
        await terminal.Until(screen => screen.Contains("Path:", StringComparison.Ordinal));
        await terminal.Type("disk.img", "Enter");
        await terminal.Until(screen => screen.Contains("What does the screen", StringComparison.Ordinal));
        await terminal.Type("2", "Enter");
        await terminal.Until(screen => screen.Contains("Is the recovery key at hand?", StringComparison.Ordinal));
        await terminal.Type("y", "Enter");
        await terminal.Until(screen => screen.Contains("it is not shown:", StringComparison.Ordinal));
        await terminal.Type(key, "Enter");
        var found = await terminal.Until(screen => screen.Contains("What next?", StringComparison.Ordinal));
        found.ShouldContain("BROKEN at loader-file");
        found.ShouldNotContain(key[..13]);
    }

    private static JsonElement Line(string folder) =>
        JsonDocument.Parse(File.ReadAllLines(Directory.GetFiles(folder, "*.jsonl").Single())[^1]).RootElement;
}
