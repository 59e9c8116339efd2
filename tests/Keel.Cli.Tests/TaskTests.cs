using System.Text.RegularExpressions;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>
/// The tasks of docs/tasks.md, typed into a terminal of 80 by 25: what they promise is on the screen at the end.
/// </summary>
public sealed partial class TaskTests
{
    private static readonly string Text = File.ReadAllText(Path.Combine(KeelProgram.Root(), "docs", "tasks.md"));

    public static TheoryData<string> Titles => [.. Task().Matches(Text).Select(match => match.Groups["title"].Value)];

    [Theory]
    [MemberData(nameof(Titles))]
    public async Task A_task_is_done_and_says_so_on_one_screen(string title)
    {
        var task = Task().Matches(Text).Single(match => match.Groups["title"].Value == title);
        using var scratch = new Scratch();
        var fault = Fault().Match(title) is { Success: true } named ? named.Groups["fault"].Value : "none";
        await KeelProgram.Practice(scratch, fault);
        await using var terminal = await Terminal80.Open(scratch);
        if (Before().Match(title) is { Success: true } before) await terminal.Run(before.Groups["command"].Value);

        var screen = await terminal.Run(task.Groups["command"].Value.Trim());
        var flat = Spaces().Replace(screen, " ");
        var promised = Promise().Matches(task.Groups["rest"].Value).Select(match => match.Groups["words"].Value).ToList();
        promised.ShouldNotBeEmpty();
        foreach (var words in promised) flat.ShouldContain(Spaces().Replace(words, " "));
    }

    [Fact]
    public void None_is_lost() => Titles.Count.ShouldBe(41);

    [GeneratedRegex(
        @"^### \d+\. (?<title>[^\n]+)\n    (?<command>[^\n]+)\n(?<rest>(?:> [^\n]+\n)+)",
        RegexOptions.Multiline | RegexOptions.ExplicitCapture)]
    private static partial Regex Task();

    [GeneratedRegex(@"\(fault: (?<fault>[a-z0-9-]+)\)")]
    private static partial Regex Fault();

    [GeneratedRegex(@"\(after: (?<command>[^)]+)\)")]
    private static partial Regex Before();

    [GeneratedRegex(@"^> (?<words>[^\n]+)$", RegexOptions.Multiline)]
    private static partial Regex Promise();

    [GeneratedRegex(@"\s+")]
    private static partial Regex Spaces();
}
