using System.Text.RegularExpressions;
using Keel.Core.Drills;
using Keel.Core.Store;

namespace Keel.Cli.Tests;

/// <summary>The docs say what the program does: its settings, its commands, its faults.</summary>
public sealed partial class DocsTests
{
    private static readonly string Root = KeelProgram.Root();

    [Fact]
    public void Every_setting_stands_in_the_docs_with_its_element_and_no_other_does()
    {
        var told = SettingRow()
            .Matches(File.ReadAllText(Path.Combine(Root, "docs", "store.md")))
            .Select(match => (match.Groups["name"].Value, match.Groups["does"].Value, match.Groups["element"].Value));
        told.ShouldBe(
            Settings.All.Select(setting => (setting.Name, setting.Meaning, $"{setting.Element:x8}")),
            ignoreOrder: true);
    }

    [Fact]
    public async Task Every_command_is_told_in_the_readme()
    {
        var readme = await File.ReadAllTextAsync(Path.Combine(Root, "README.md"), TestContext.Current.CancellationToken);
        var commands = await CommandsOf();
        commands.Count.ShouldBeGreaterThan(10);
        foreach (var command in commands) readme.ShouldContain($"keel {command}");
    }

    [Fact]
    public async Task Every_command_and_subcommand_has_help_that_says_what_it_does()
    {
        foreach (var command in await CommandsOf())
        {
            var help = await KeelProgram.Must(0, command, "--help");
            help.ShouldContain("Usage:");
            help.TrimEnd().Split('\n').Length.ShouldBeLessThanOrEqualTo(24, command);
            foreach (var inner in CommandLine().Matches(InnerOf(help)).Select(match => match.Groups["name"].Value))
            {
                var about = await KeelProgram.Must(0, command, inner, "--help");
                about.ShouldContain("Usage:");
                about.TrimEnd().Split('\n').Length.ShouldBeLessThanOrEqualTo(24, $"{command} {inner}");
            }
        }

        (await KeelProgram.Must(0, "--help")).TrimEnd().Split('\n').Length.ShouldBeLessThanOrEqualTo(24);
    }

    [Fact]
    public async Task The_manual_pages_are_those_that_the_program_makes()
    {
        var pages = Directory.GetFiles(Path.Combine(Root, "docs", "man"), "*.1");
        pages.Length.ShouldBeGreaterThan(10);
        foreach (var page in pages)
        {
            var name = Path.GetFileNameWithoutExtension(page);
            var made = await KeelProgram.Must(0, name == "keel" ? ["manual"] : ["manual", name["keel-".Length..]]);
            made.ShouldBe(await File.ReadAllTextAsync(page, TestContext.Current.CancellationToken), $"{name}: docs/man/make");
        }
    }

    [Fact]
    public async Task Every_fault_is_told_in_the_docs()
    {
        var docs = await File.ReadAllTextAsync(
            Path.Combine(Root, "docs", "faults.md"),
            TestContext.Current.CancellationToken);
        foreach (var fault in Faults.All.Where(fault => fault.Id != "none"))
            docs.ShouldContain(fault.Id);
    }

    private static async Task<IReadOnlyList<string>> CommandsOf() =>
        [.. ManualLine().Matches(Behind(await KeelProgram.Must(0, "manual"), ".SH COMMANDS").Split("\n.SH ")[0])
            .Select(match => match.Groups["name"].Value)];

    /// <summary>The paragraph below the heading.</summary>
    private static string InnerOf(string help) =>
        Behind(help, "Commands:").TrimStart('\n').Split("\n\n")[0];

    private static string Behind(string text, string heading) =>
        text.IndexOf(heading, StringComparison.Ordinal) is var at and >= 0 ? text[(at + heading.Length)..] : "";

    [GeneratedRegex(
        @"^\| (?<name>[a-z0-9-]+) \| [^|]+ \| [^|]+ \| (?<does>[^|]+) \| (?<element>[0-9a-f]{8}) \|\s*$",
        RegexOptions.Multiline)]
    private static partial Regex SettingRow();

    [GeneratedRegex(@"^\.B (?<name>[a-z0-9]+)\b", RegexOptions.Multiline)]
    private static partial Regex ManualLine();

    [GeneratedRegex(@"^  (?<name>[a-z0-9]+) ", RegexOptions.Multiline)]
    private static partial Regex CommandLine();
}
