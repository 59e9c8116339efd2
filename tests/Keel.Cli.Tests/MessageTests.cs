using System.Text.RegularExpressions;

namespace Keel.Cli.Tests;

/// <summary>
/// All that the program can say, gathered from its sources into dist/messages.txt, where a human being reads it.
/// </summary>
public sealed class MessageTests
{
    private static readonly string Root = KeelProgram.Root();

    private static readonly IReadOnlyList<string> Rows = [.. Directory
        .EnumerateFiles(Path.Combine(Root, "src"), "*.cs", SearchOption.AllDirectories)
        .Where(path => !path.Contains("/obj/", StringComparison.Ordinal))
        .Order(StringComparer.Ordinal)
        .SelectMany(path => Messages.In(File.ReadAllText(path)).Distinct().Select(text => $"{NameOf(path)}: {text}"))];

    [Fact]
    public void All_messages_are_gathered_for_reading()
    {
        Directory.CreateDirectory(Path.Combine(Root, "dist"));
        File.WriteAllLines(Path.Combine(Root, "dist", "messages.txt"), Rows);
        Rows.Count.ShouldBeGreaterThan(1500);
        Rows.ShouldContain(row => row.EndsWith(": Nothing was written.", StringComparison.Ordinal));
    }

    /// <summary>Slips of the pen that were found once.</summary>
    [Theory]
    [InlineData(@"\bcan not\b")]
    [InlineData(@"[a-z]  [a-z]")]
    [InlineData(@"\b(entrys|childs|informations|occured|seperate|recieve|neccessary)\b")]
    [InlineData(@"\w\(s\)")]
    [InlineData("\u2026")]
    [InlineData(@"\w ,| \.(?= |$)")]
    [InlineData(@"\b(the the|a a|is is|of of|to to)\b")]
    public void No_message_has_that_slip(string slip)
    {
        Rows.Where(text => Regex.IsMatch(text, slip, RegexOptions.None, TimeSpan.FromSeconds(5))).ShouldBeEmpty();
    }

    [Theory]
    [InlineData("""f("There is no disk.");""", "There is no disk.")]
    [InlineData("""f($"There is no {a.B} on {c.D(e)}.");""", "There is no {a.B} on {c D e}.")]
    [InlineData("""f($"It has {(n == 1 ? "one disk here" : "more")}.");""", "one disk here")]
    [InlineData("""f("NTFS    ");""", null)]
    public void What_a_file_says_is_found(string source, string? text) =>
        Messages.In(source).LastOrDefault().ShouldBe(text);

    private static string NameOf(string path) => Path.GetRelativePath(Path.Combine(Root, "src"), path);
}
