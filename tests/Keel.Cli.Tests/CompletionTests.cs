using System.Text;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>The shells' completion, in the shells themselves: a word from a disk is a word, and nothing else.</summary>
public sealed class CompletionTests
{
    private const string Harmful = "Bob's $(touch PWNED)`touch PWNED`;touch PWNED&\"x\" \\ *~";

    public static TheoryData<string> Shells => ["bash", "zsh", "fish"];

    [Theory]
    [InlineData("sto", "store")]
    [InlineData("store pre", "prefer")]
    [InlineData("diagnose --firmware ", "bios uefi")]
    [InlineData("diagnose --firmware b", "bios")]
    [InlineData("store prefer DISK ", @"Windows\ 10\ Pro")]
    [InlineData("store prefer DISK \"Windows 1", "Windows 10 Pro")]
    [InlineData("mbr activate DISK --volume ", "1 2")]
    [InlineData("mbr activate DISK --vol", "--volume")]
    [InlineData("nonsense ", "")]
    public async Task A_shell_is_offered_what_fits(string line, string expected)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        var offered = await Offered(("keel " + line).Replace("DISK", disk, StringComparison.Ordinal));
        var isOne = line.Contains("prefer", StringComparison.Ordinal);
        var words = isOne ? [expected] : expected.Split(' ', StringSplitOptions.RemoveEmptyEntries);
        foreach (var word in words) offered.ShouldContain(word);
        if (words.Length == 0) offered.ShouldBeEmpty();
        offered.Any(
            word => word.StartsWith('-')).ShouldBe(line.Contains("--vol", StringComparison.Ordinal) && !line.EndsWith(' '));
    }

    [Fact]
    public async Task Files_fit_where_a_disk_is_wanted_and_nowhere_else()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        string[] places = ["diagnose ", "survey x", "undo ", "logbook ", "report d.img --out ", "mend a --with "];
        foreach (var line in places)
            (await Answer("keel " + line))[0].ShouldBe("files", line);
        string[] others = ["diagnose --code ", "diagnose -", $"store prefer {disk} ", "sto", "completion ", "files take d "];
        foreach (var line in others)
            (await Answer("keel " + line))[0].ShouldBe("words", line);
    }

    [Fact]
    public async Task A_word_behind_a_colon_is_offered_from_there_on()
    {
        using var scratch = new Scratch();
        var disk = await Titled(scratch, await KeelProgram.Practice(scratch, "none"), "old: new");
        (await Answer($"keel store prefer {disk} old:", ":")).ShouldContain(":\\ new");
        (await Answer($"keel store prefer {disk} \"old:", "\"old:")).ShouldContain("old: new");
        (await Answer($"keel store prefer {disk} old\\:", "old\\:")).ShouldContain("old:\\ new");
    }

    [Theory, MemberData(nameof(Shells))]
    public async Task A_title_from_a_disk_becomes_one_quoted_word_and_is_never_carried_out(string shell)
    {
        foreach (var title in (string[])[Harmful, "two\nlines"])
        {
            using var scratch = new Scratch();
            await Titled(scratch, await KeelProgram.Practice(scratch, "none", "my disk.img"), title);
            await using var terminal = await Terminal80.Open(scratch, shell);
            Script(scratch["bin/show"], $"printf '<%s>' \"$@\" > {scratch["out"]}");
            await Load(terminal, shell);
            await terminal.Type(
                "-l",
                $"keel store prefer 'my disk.img' {title[..3].Replace("'", "\\'", StringComparison.Ordinal)}");
            await terminal.Type("Tab");
            await terminal.Until(screen => screen.Contains(title == Harmful ? "PWNED" : "lines", StringComparison.Ordinal));
            File.Exists(scratch["PWNED"]).ShouldBeFalse("the title was carried out while it was completed");

            // The same line shows what the shell makes of it: keel's place is taken by a program that shows its words.
            await terminal.Type("C-a");
            await terminal.Type("-l", "show ");
            await terminal.Type("C-e");
            await terminal.Type("Enter");
            await terminal.Until(_ => new FileInfo(scratch["out"]) is { Exists: true, Length: > 0 });
            (await File.ReadAllTextAsync(scratch["out"], TestContext.Current.CancellationToken))
                .ShouldBe($"<keel><store><prefer><my disk.img><{title}>", shell);
            File.Exists(scratch["PWNED"]).ShouldBeFalse();
        }
    }

    [Theory, MemberData(nameof(Shells))]
    public async Task The_first_tab_works(string shell)
    {
        using var scratch = new Scratch();
        await using var terminal = await Terminal80.Open(scratch, shell);
        await Load(terminal, shell);
        await terminal.Type("-l", "keel diag");
        await terminal.Type("Tab");
        await terminal.Until(screen => screen.Contains("keel diagnose", StringComparison.Ordinal));
        await terminal.Type("-l", "--", "--firm");
        await terminal.Type("Tab");
        await terminal.Until(screen => screen.Contains("keel diagnose --firmware", StringComparison.Ordinal));
    }

    [Fact]
    public async Task Zsh_finds_it_in_its_own_folder_of_functions()
    {
        using var scratch = new Scratch();
        await File.WriteAllTextAsync(
            scratch["_keel"],
            await KeelProgram.Must(0, "completion", "zsh"),
            TestContext.Current.CancellationToken);
        await using var terminal = await Terminal80.Open(scratch, "zsh");
        await terminal.Run($"fpath=({scratch.Folder} $fpath); autoload -Uz compinit; compinit -u");
        await terminal.Type("-l", "keel diag");
        await terminal.Type("Tab");
        await terminal.Until(screen => screen.Contains("keel diagnose", StringComparison.Ordinal));
    }

    [Fact]
    public async Task Fish_completes_behind_sudo()
    {
        using var scratch = new Scratch();
        await using var terminal = await Terminal80.Open(scratch, "fish");
        Script(scratch["bin/sudo"], "exec \"$@\"");
        await Load(terminal, "fish");
        await terminal.Type("-l", "sudo keel diagnose --firmware ue");
        await terminal.Type("Tab");
        await terminal.Until(screen => screen.Contains("--firmware uefi", StringComparison.Ordinal));
    }

    private static Task<string> Load(Terminal80 terminal, string shell) => terminal.Run(shell switch
    {
        "bash" => "eval \"$(keel completion bash)\"",
        "zsh" => "eval \"$(keel completion zsh)\"",
        _ => "keel completion fish | source"
    });

    private static void Script(string path, string line)
    {
        File.WriteAllText(path, $"#!/bin/sh\n{line}\n");
        File.SetUnixFileMode(path, UnixFileMode.UserRead | UnixFileMode.UserWrite | UnixFileMode.UserExecute);
    }

    /// <summary>Gives the Windows entry of a practice disk another title, one that keel itself would refuse among them.</summary>
    private static async Task<string> Titled(Scratch scratch, string disk, string title)
    {
        const char odd = '\n', standIn = '%';
        var typed = title.Replace(odd, standIn);
        await KeelProgram.Must(0, "store", "change", disk, "1", "title=" + typed, "--yes", "--logbook", scratch["own-logbook"]);
        if (typed == title) return disk;
        var bytes = await File.ReadAllBytesAsync(disk, TestContext.Current.CancellationToken);
        var (from, to) = (Encoding.Unicode.GetBytes(typed), Encoding.Unicode.GetBytes(title));
        for (var at = bytes.AsSpan().IndexOf(from); at >= 0; at = bytes.AsSpan().IndexOf(from)) to.CopyTo(bytes, at);
        await File.WriteAllBytesAsync(disk, bytes, TestContext.Current.CancellationToken);
        return disk;
    }

    private static async Task<IReadOnlyList<string>> Offered(string line) => [.. (await Answer(line)).Skip(1)];

    private static async Task<string[]> Answer(string line, string piece = "") =>
        (await KeelProgram.Must(0, "[words:line]", line, piece)).Split('\0')[..^1];
}
