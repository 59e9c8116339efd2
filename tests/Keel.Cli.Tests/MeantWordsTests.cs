using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>What a new user types, and what comes: the right command is shown, and nothing is run.</summary>
public sealed class MeantWordsTests
{
    [Theory]
    [InlineData("0xc000000f", "keel explain 0xc000000f")]
    [InlineData("c0000225", "keel diagnose DISK --code c0000225")]
    [InlineData("0x7B", "keel explain 0x7B")]
    [InlineData("/dev/sdx", "keel diagnose /dev/sdx")]
    [InlineData("purser.vhdx", "keel mend purser.vhdx")]
    [InlineData("nbd://tide/gate", "keel diagnose nbd://tide/gate")]
    [InlineData("repair", "keel mend DISK")]
    [InlineData("Fix", "keel mend DISK")]
    [InlineData("fix purser.img", "keel mend purser.img")]
    [InlineData("check purser.img", "keel diagnose purser.img")]
    [InlineData("list", "keel survey")]
    [InlineData("bcd purser.img", "keel store list purser.img")]
    [InlineData("rebuild", "keel store rebuild DISK")]
    [InlineData("partitions", "keel layout show DISK")]
    [InlineData("rollback", "keel undo DISK")]
    [InlineData("drivers", "keel services list DISK")]
    [InlineData("nvram", "keel firmware list")]
    [InlineData("clone", "keel disk image DEVICE OUT")]
    [InlineData("smart", "keel disk health")]
    [InlineData("unlock purser.img", "keel diagnose purser.img --unlock -")]
    [InlineData("version", "keel --version")]
    [InlineData("diganose", "keel diagnose")]
    [InlineData("diagnose purser.img --json", "--format json")]
    [InlineData("mend purser.img --dry-run", "--preview")]
    [InlineData("mend purser.img -n", "--preview")]
    [InlineData("mend purser.img --force", "--yes")]
    [InlineData("diagnose purser.img --recovery-key 1", "--unlock FILE")]
    [InlineData("diagnose purser.img --uefi", "--firmware uefi")]
    [InlineData("diagnose purser.img --colour never", "--color WHEN")]
    public async Task The_right_command_is_shown(string typed, string shown)
    {
        var (code, output, error) = await KeelProgram.Run(typed.Split(' '));
        code.ShouldBe(2, output);
        output.ShouldBeEmpty();
        string.Join(' ', error.Split((char[])[' ', '\n'], StringSplitOptions.RemoveEmptyEntries)).ShouldContain(shown);
    }

    [Theory]
    [InlineData("/?")]
    [InlineData("/help")]
    [InlineData("mend /?")]
    [InlineData("store add /h")]
    public async Task Help_is_given_however_it_is_asked_for(string typed) =>
        (await KeelProgram.Must(0, typed.Split(' '))).ShouldContain("Usage:");

    [Theory]
    [InlineData("BootBCD", @"\Boot\BCD")]
    [InlineData("WindowsSystem32drivers", @"\Windows\System32\drivers")]
    [InlineData("2:windowssystem32configSYSTEM", @"\Windows\System32\config\SYSTEM")]
    public async Task A_path_that_a_shell_took_the_backslashes_of_is_found_again(string typed, string meant)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var (code, _, error) = await KeelProgram.Run("files", "look", disk, typed);
        code.ShouldBe(3);
        error.ShouldContain($"Did you mean '{meant}'?");
    }

    [Fact]
    public async Task A_letter_is_the_one_that_Windows_gives()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        (await KeelProgram.Must(0, "files", "look", disk, @"C:\Windows\System32")).ShouldContain("config");
        (await KeelProgram.Must(0, "files", "look", disk, "c:/Windows")).ShouldContain("System32");
        var (code, _, error) = await KeelProgram.Run("files", "look", disk, @"Q:\Windows");
        code.ShouldBe(2);
        error.ShouldContain("No volume is Q: here.");
    }
}
