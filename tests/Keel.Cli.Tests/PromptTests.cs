using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>What is asked is what is written: one answer is about one step, and no means that nothing is written.</summary>
public sealed class PromptTests
{
    public static TheoryData<string, string> Requests => new()
    {
        { "mbr-code-wiped+wait-zero-no-menu", "mbr rewrite DISK" },
        { "wait-zero-no-menu+mbr-code-wiped", "store menu DISK --seconds 20" },
        { "mbr-code-wiped+manager-missing", "files renew DISK" },
        { "mbr-code-wiped+store-missing", "store rebuild DISK" },
        { "mbr-code-wiped+preferred-dangling", "mbr activate DISK --volume 2" }
    };

    [Theory, MemberData(nameof(Requests))]
    public async Task No_to_a_request_writes_nothing_and_offers_nothing_else(string faults, string command)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, faults);
        var before = await Images.Hash(disk);
        var (code, output) = await Answer(
            scratch,
            command.Replace("DISK", disk, StringComparison.Ordinal),
            command.StartsWith("store rebuild", StringComparison.Ordinal) ? "y\\nn\\ny\\ny\\ny\\n" : "n\\ny\\ny\\ny\\n");
        code.ShouldBe(4, output);
        output.ShouldContain("Nothing was written.");
        System.Text.RegularExpressions.Regex
            .Count(output, @"\[y\]es / \[n\]o / \[a\]ll / \[s\]how")
            .ShouldBeLessThanOrEqualTo(command.StartsWith("files renew", StringComparison.Ordinal) ? 2 : 1, output);
        (await Images.Hash(disk)).ShouldBe(before, output);
        Directory.Exists(scratch["logbook"]).ShouldBeFalse();
    }

    [Theory]
    [InlineData("")]
    [InlineData(" --format json")]
    public async Task One_answer_is_about_one_step_also_of_the_same_kind(string form)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "kernel-altered+driver-altered+loader-altered");
        var asked = await Answer(scratch, $"mend {disk}{form}", "y\\nn\\nn\\nn\\nn\\n");
        asked.Code.ShouldBeOneOf(0, 1, 4);
        var (code, output) = await Answer(scratch, $"mend {disk} --preview", "");
        code.ShouldBe(1, output);
        var steps = (await KeelProgram.Json(1, "mend", disk, "--preview", "--logbook", scratch["logbook"]))
            .GetProperty("plan")
            .GetArrayLength();
        System.Text.RegularExpressions.Regex
            .Count(asked.Output, @"\[y\]es")
            .ShouldBeGreaterThanOrEqualTo(Math.Min(2, steps), asked.Output);
    }

    [Fact]
    public async Task A_long_copy_shows_how_far_it_has_come_and_how_fast()
    {
        using var scratch = new Scratch();
        await using var terminal = await Terminal80.Open(scratch);
        const string slow = "strace -f -qq -o /dev/null -e inject=pread64:delay_enter=100000 keel stick check";
        await terminal.Type($"{slow} {RescueMachine.Image}", "Enter");
        var screen = await terminal.Until(text => text.Contains("checking [#", StringComparison.Ordinal));
        screen.ShouldMatch(@"checking \[#+\.+\] \d+ % of [\d.]+ MiB, [\d.]+ MiB/s, \d\d:\d\d left");
        await terminal.Until(text => text.Contains("GOOD: it is whole", StringComparison.Ordinal)
            && !text.Contains("checking [", StringComparison.Ordinal));
    }

    [Fact]
    public async Task Work_over_a_second_says_that_it_goes_on_and_leaves_no_trace()
    {
        using var scratch = new Scratch();
        await KeelProgram.Practice(scratch, "none");
        await using var terminal = await Terminal80.Open(scratch);
        const string slow = "strace -f -qq -o /dev/null -e inject=pread64:delay_enter=60000 keel diagnose disk.img";
        await terminal.Type(slow, "Enter");
        await terminal.Until(screen => screen.Contains("keel is walking the chain: 2 s", StringComparison.Ordinal));
        var end = await terminal.Until(screen => screen.Contains("SOUND", StringComparison.Ordinal)
            && screen.TrimEnd().EndsWith("ready>", StringComparison.Ordinal));
        end.ShouldNotContain("keel is walking");
    }

    [Fact]
    public async Task Every_step_declined_leaves_the_disk_as_it_is()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "mbr-code-wiped+preferred-dangling");
        var before = await Images.Hash(disk);
        var (code, output) = await Answer(scratch, $"mend {disk}", "n\\nn\\nn\\nn\\n");
        code.ShouldBe(4, output);
        output.ShouldContain("Nothing was written.");
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Theory]
    [InlineData(73)]
    [InlineData(74)]
    [InlineData(75)]
    [InlineData(200)]
    public async Task A_title_of_spaces_neither_hangs_nor_crashes(int spaces)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        await KeelProgram.Must(
            0,
            "store",
            "change",
            disk,
            "1",
            $"title={new string(' ', spaces)}x",
            "--yes",
            "--logbook",
            scratch["logbook"]);
        await KeelProgram.Must(0, "store", "list", disk);
        await Tool.MustAgree("bash", "-c", $"dd if=/dev/zero of={disk} bs=440 count=1 conv=notrunc status=none");
        var (code, output) = await Answer(scratch, $"store rebuild {disk}", "y\\ny\\n");
        code.ShouldBeOneOf(0, 1);
        output.ShouldContain("Build the store anew");
    }

    [Theory]
    [InlineData("store menu DISK --seconds 15s", 2)]
    [InlineData("survey DISK --format yaml", 2)]
    [InlineData("survey DISK --format", 2)]
    [InlineData("drill new none --out /nowhere/at/all/disk.img", 3)]
    [InlineData("diagnose DISK --with DISK", 2)]
    [InlineData("undo DISK --record 9999", 2)]
    public async Task Slips_end_in_a_sentence(string command, int exitCode)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var (code, output, error) = await KeelProgram.Run([
            .. command.Split(' ').Select(word => word == "DISK" ? disk : word),
            "--logbook",
            scratch["logbook"]
        ]);
        code.ShouldBe(exitCode, output + error);
        error.ShouldContain("keel:");
        (output + error).ShouldNotContain("Exception");
    }

    [Fact]
    public async Task A_full_output_device_is_told_apart_from_a_disk_that_failed()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        var (code, _, error) = await Tool.Run(
            "bash",
            "-c",
            $"{KeelProgram.Path} mend {disk} --yes --logbook {scratch["logbook"]} > /dev/full");
        code.ShouldBe(3);
        error.ShouldContain("output could not be written");
        var sound = (await KeelProgram.Run("diagnose", disk)).ExitCode == 0;
        if (sound) error.ShouldContain("is written");
        else error.ShouldContain("Nothing was written");
        (await Tool.Run("bash", "-c", $"{KeelProgram.Path} survey {disk} > /dev/full 2> /dev/full")).ExitCode.ShouldBe(3);
    }

    [Fact]
    public async Task What_was_typed_ahead_agrees_to_nothing()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        var before = await Images.Hash(disk);
        var command = $"stty -echo; printf ready?; sleep 1; {KeelProgram.Path} mend {disk} --logbook {scratch["logbook"]}";
        var (code, output) = await Answers.Give(command, "y\\n", "n\\n");
        code.ShouldBe(4, output);
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Fact]
    public async Task A_digit_selects_and_enter_takes_it()
    {
        using var scratch = new Scratch();
        await KeelProgram.Practice(scratch, "store-missing");
        await using var terminal = await Terminal80.Open(scratch);
        await terminal.Type("-l", "keel");
        await terminal.Type("Enter");
        var first = await terminal.Until(screen => screen.TrimEnd().EndsWith("type it", StringComparison.Ordinal));
        var number = first.Split('\n').Last(line => line.Contains("type it", StringComparison.Ordinal)).Trim('>', ' ')[..1];
        await terminal.Type(number);
        await terminal.Until(screen => screen.Contains($"> {number}", StringComparison.Ordinal));
        await Task.Delay(300, TestContext.Current.CancellationToken);
        (await terminal.Until(_ => true)).ShouldNotContain("Path:", Case.Sensitive);
        await terminal.Type("Enter");
        await terminal.Until(screen => screen.TrimEnd().EndsWith("Path:", StringComparison.Ordinal));
    }

    private static Task<(int Code, string Output)> Answer(Scratch scratch, string command, string answers) =>
        Answers.Give($"{KeelProgram.Path} {command} --logbook {scratch["logbook"]}", answers);
}
