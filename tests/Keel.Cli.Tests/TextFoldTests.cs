using CsCheck;
using Keel.Cli.Terminal;

namespace Keel.Cli.Tests;

/// <summary>Lines fit the terminal whatever letters are in them, and no letter is lost.</summary>
public sealed class TextFoldTests
{
    private const string Sentence = "The boot configuration store on volume 1 is cut short; its log has the rest.";

    private static readonly string[] Parts = ["a", "bb", "渡", "é", " ", "  ", "\\", "e\u0301", "word", "船"];

    [Theory]
    [InlineData(40, "The boot configuration store on volume 1|is cut short; its log has the rest.")]
    [InlineData(80, Sentence)]
    [InlineData(100, Sentence)]
    [InlineData(30, "The boot configuration store|on volume 1 is cut short; its|log has the rest.")]
    [InlineData(10, "The boot|configurat|ion store|on volume|1 is cut|short; its|log has|the rest.")]
    public void A_sentence_breaks_at_its_spaces(int width, string lines) =>
        string.Join('|', TextFold.Wrap(Sentence, width)).ShouldBe(lines);

    [Fact]
    public void Later_lines_hang_under_the_first() =>
        TextFold.Wrap(Sentence, 40, hang: 10).ShouldBe(
        [
            "The boot configuration store on volume 1",
            "is cut short; its log has the",
            "rest."
        ]);

    [Theory]
    [InlineData("abc", 3)]
    [InlineData("Fähre", 5)]
    [InlineData("Fa\u0308hre", 5)]
    [InlineData("渡し船", 6)]
    [InlineData("", 0)]
    public void Letters_take_the_places_that_a_terminal_gives_them(string text, int places) =>
        TextFold.PlacesOf(text).ShouldBe(places);

    [Fact]
    public void Wide_letters_fill_a_line_with_half_as_many() =>
        TextFold.Wrap("渡し船乗り場入口渡し船", 8).ShouldBe(["渡し船乗", "り場入口", "渡し船"]);

    [Fact]
    public void Letters_and_their_marks_stay_together()
    {
        var lines = TextFold.Wrap(string.Concat(Enumerable.Repeat("a\u0301", 20)), 8).ToList();
        lines.ShouldBe([
            string.Concat(Enumerable.Repeat("a\u0301", 8)),
            string.Concat(Enumerable.Repeat("a\u0301", 8)),
            string.Concat(Enumerable.Repeat("a\u0301", 4))
        ]);
    }

    [Fact]
    public void Every_line_fits_and_every_letter_is_there() =>
        Gen.Select(Gen.Int[0, Parts.Length - 1].Array[0, 60], Gen.Int[1, 60], Gen.Int[0, 20])
            .Sample((parts, width, hang) =>
            {
                var text = string.Concat(parts.Select(part => Parts[part]));
                var lines = TextFold.Wrap(text, width, hang).ToList();
                lines.ShouldAllBe(line => TextFold.PlacesOf(line) <= Math.Max(8, width));
                string
                    .Concat(lines)
                    .Replace(" ", "", StringComparison.Ordinal)
                    .ShouldBe(text.Replace(" ", "", StringComparison.Ordinal));
            });
}
