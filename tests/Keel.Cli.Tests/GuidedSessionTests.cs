using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>
/// keel alone leads from what the screen says to a repair, and out again; it writes nothing that was not agreed to.
/// </summary>
public sealed class GuidedSessionTests
{
    private const string Question = "What does the screen of the machine say?";

    [Fact]
    public async Task It_leads_to_the_repair_and_takes_it_back()
    {
        using var scratch = new Scratch();
        var before = await Images.Hash(await KeelProgram.Practice(scratch, "preferred-dangling"));
        await using var terminal = await Terminal80.Open(scratch);
        await Begin(terminal, "disk.img");
        await terminal.Type("1", "Enter");
        await terminal.Type("c0000034", "Enter");
        var found = await terminal.Until(screen => screen.Contains("What next?", StringComparison.Ordinal));
        found.ShouldContain("BROKEN at manager-entry");
        found.ShouldContain("it fits");
        found.ShouldContain("1. Prefer the entry \"Windows 10 Pro\".");
        found.ShouldContain("> 1  mend it");
        found.ShouldContain("leave keel");

        await terminal.Type("Enter");
        await terminal.Until(screen => screen.Contains("[s]how?", StringComparison.Ordinal));
        await terminal.Type("y", "Enter");
        var mended = await terminal.Until(screen => screen.Contains("Saved as repair", StringComparison.Ordinal)
            && screen.Contains("leave keel", StringComparison.Ordinal));
        mended.ShouldContain("SOUND");
        mended.ShouldNotContain("mend it: the plan");

        await terminal.Type(NumberOf(mended, "take a repair back"), "Enter");
        await terminal.Until(screen => screen.Contains("Take it back?", StringComparison.Ordinal));
        await terminal.Type("y", "Enter");
        await terminal.Until(screen => screen.Contains("that the repair wrote", StringComparison.Ordinal)
            && screen.TrimEnd().EndsWith("leave keel", StringComparison.Ordinal));
        await terminal.Type("q");
        await terminal.Until(screen => screen.TrimEnd().EndsWith("ready>", StringComparison.Ordinal));
        (await Images.Hash(scratch["disk.img"])).ShouldBe(before);
    }

    [Theory]
    [InlineData("q", "Nothing was written.")]
    [InlineData("C-c", "Nothing was written.")]
    [InlineData("Escape", "Nothing was written.")]
    public async Task It_ends_at_any_point_and_says_that_nothing_was_written(string key, string words)
    {
        using var scratch = new Scratch();
        var before = await Images.Hash(await KeelProgram.Practice(scratch, "mbr-code-wiped"));
        await using var terminal = await Terminal80.Open(scratch);
        await Begin(terminal, "disk.img");
        await terminal.Type("2", "Enter");
        await terminal.Until(screen => screen.Contains("leave keel", StringComparison.Ordinal));
        await terminal.Type(key);
        (await terminal.Until(screen => screen.TrimEnd().EndsWith("ready>", StringComparison.Ordinal))).ShouldContain(words);
        (await Images.Hash(scratch["disk.img"])).ShouldBe(before);
    }

    [Fact]
    public async Task Ctrl_C_at_a_question_writes_nothing()
    {
        using var scratch = new Scratch();
        var before = await Images.Hash(await KeelProgram.Practice(scratch, "store-missing"));
        await using var terminal = await Terminal80.Open(scratch);
        await terminal.Type("keel mend disk.img", "Enter");
        await terminal.Until(screen => screen.Contains("[s]how?", StringComparison.Ordinal));
        await terminal.Type("C-c");
        (await terminal.Until(screen => screen.TrimEnd().EndsWith("ready>", StringComparison.Ordinal)))
            .ShouldContain("Nothing was written.");
        (await Images.Hash(scratch["disk.img"])).ShouldBe(before);
    }

    [Fact]
    public async Task Arrow_keys_lead_through_the_menu_and_a_wrong_path_is_asked_again()
    {
        using var scratch = new Scratch();
        await KeelProgram.Practice(scratch, "none");
        await using var terminal = await Terminal80.Open(scratch);
        await Begin(terminal, "gone.img");
        await terminal.Until(screen => screen.Contains("is not there", StringComparison.Ordinal));
        await TypePath(terminal, "disk.img");
        await terminal.Until(screen => screen.Contains(Question, StringComparison.Ordinal));
        await terminal.Type("Down", "Down", "Enter");
        (await terminal.Until(screen => screen.Contains("leave keel", StringComparison.Ordinal))).ShouldContain("SOUND");
        await terminal.Type("Up");
        (await terminal.Until(screen => screen.Contains("leave keel", StringComparison.Ordinal)
            && screen.Split('\n').Any(line => line.StartsWith("> ", StringComparison.Ordinal)
                && line.EndsWith("leave keel", StringComparison.Ordinal)))).ShouldNotBeEmpty();
        await terminal.Type("Enter");
        await terminal.Until(screen => screen.TrimEnd().EndsWith("ready>", StringComparison.Ordinal));
    }

    [Fact]
    public async Task A_pager_is_used_where_it_was_asked_for()
    {
        using var scratch = new Scratch();
        await KeelProgram.Practice(scratch, "none");
        await using var terminal = await Terminal80.Open(scratch);
        (await terminal.Run("PAGER='sed s/^/paged:/' keel survey disk.img --pager")).ShouldContain("paged:Starts through BIOS");
        (await terminal.Run("keel survey disk.img")).ShouldNotContain("paged:");
        (await terminal.Run("PAGER=true keel survey disk.img --pager; echo code $?")).ShouldContain("code 0");
        (await KeelProgram.Must(0, "survey", scratch["disk.img"], "--pager")).ShouldContain("Starts through BIOS");
    }

    [Fact]
    public async Task Without_a_terminal_it_is_the_help()
    {
        var help = await KeelProgram.Must(0);
        help.ShouldContain("Usage:");
        help.ShouldContain("diagnose");
        (await KeelProgram.Must(0, "help")).ShouldBe(help);
        (await KeelProgram.Must(0, "help", "store", "add")).ShouldBe(await KeelProgram.Must(0, "store", "add", "--help"));
    }

    /// <summary>Starts it and names the disk; on a computer whose own disk can be read, by way of "another disk".</summary>
    private static async Task Begin(Terminal80 terminal, string path)
    {
        await terminal.Type("clear; keel", "Enter");
        var screen = await terminal.Until(text => text.Contains("type it", StringComparison.Ordinal));
        if (screen.Contains("Which disk", StringComparison.Ordinal)) await TypePath(terminal, path);
        if (path == "disk.img") await terminal.Until(text => text.Contains(Question, StringComparison.Ordinal));
    }

    private static async Task TypePath(Terminal80 terminal, string path)
    {
        var screen = await terminal.Until(text => text.TrimEnd().EndsWith("type it", StringComparison.Ordinal));
        await terminal.Type(NumberOf(screen, "type it"), "Enter");
        await terminal.Until(text => text.TrimEnd().EndsWith("Path:", StringComparison.Ordinal));
        await terminal.Type(path, "Enter");
    }

    private static string NumberOf(string screen, string words) => screen
        .Split('\n')
        .Last(line => line.Contains(words, StringComparison.Ordinal))
        .Trim('>', ' ')[..1];
}
