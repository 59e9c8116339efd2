using System.Globalization;
using System.Text;
using Spectre.Console;

namespace Keel.Cli.Terminal;

/// <summary>
/// Folds text into lines by the room that it takes on a terminal, where some letters take two places and some none.
/// </summary>
internal static class TextFold
{
    private const int Narrowest = 8;

    /// <summary>How many places of a terminal's line a text takes.</summary>
    public static int PlacesOf(string text) => Ascii.IsValid(text) ? text.Length : text.GetCellWidth();

    /// <summary>
    /// Lines of at most that many places; the later ones narrower by the hang. A line breaks at a space where it can.
    /// </summary>
    public static IEnumerable<string> Wrap(string text, int width, int hang = 0)
    {
        width = Math.Max(Narrowest, width);
        while (PlacesOf(text) > width)
        {
            var cut = CutOf(text, width);
            yield return text[..cut].TrimEnd(' ');
            text = text[cut..].TrimStart(' ');
            width = Math.Max(Narrowest, width - hang);
            hang = 0;
        }

        yield return text;
    }

    /// <summary>
    /// The last space that a line can end at, behind a word; else the end of a path's folder; else as much as fits, whole letters
    /// only.
    /// </summary>
    private static int CutOf(string text, int width)
    {
        var fits = LengthThatFits(text, width);
        var wordAt = text.AsSpan().IndexOfAnyExcept(' ');
        var cut = text.LastIndexOf(' ', Math.Min(fits, text.Length - 1));
        if (wordAt >= 0 && cut > wordAt) return cut;
        var folder = text.AsSpan(0, fits).LastIndexOfAny('\\', '/') + 1;
        return folder > fits / 2 ? folder : fits;
    }

    /// <summary>
    /// How long the beginning of a text is that fits; one letter at least, with all the marks that belong to it.
    /// </summary>
    private static int LengthThatFits(string text, int width)
    {
        var places = 0;
        var length = 0;
        while (length < text.Length)
        {
            var letter = StringInfo.GetNextTextElementLength(text, length);
            places += PlacesOf(text.Substring(length, letter));
            if (places > width && length > 0) return length;
            length += letter;
        }

        return length;
    }
}
