using System.Globalization;
using System.Net;
using System.Text;

namespace Keel.Cli.Views.Reports;

/// <summary>Text from anywhere, made harmless on a page: letters that hide or turn others are shown as their numbers.</summary>
internal static class HtmlText
{
    /// <summary>For a page.</summary>
    public static string Of(string text) => WebUtility.HtmlEncode(Visible(text));

    /// <summary>Without what can't be seen.</summary>
    public static string Visible(string text)
    {
        var safe = new StringBuilder(text.Length);
        foreach (var rune in text.EnumerateRunes())
        {
            if (IsHidden(rune)) safe.Append(CultureInfo.InvariantCulture, $"\\u{{{rune.Value:x}}}");
            else safe.Append(rune);
        }

        return safe.ToString();
    }

    private static bool IsHidden(Rune rune) => rune == Rune.ReplacementChar || Rune.GetUnicodeCategory(rune) is
        UnicodeCategory.Control or UnicodeCategory.Format or UnicodeCategory.LineSeparator
        or UnicodeCategory.ParagraphSeparator or UnicodeCategory.PrivateUse or UnicodeCategory.OtherNotAssigned;
}
