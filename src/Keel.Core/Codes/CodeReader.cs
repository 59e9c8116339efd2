using System.Globalization;
using System.Text.RegularExpressions;

namespace Keel.Core.Codes;

/// <summary>
/// Finds codes in what a technician types: with or without 0x, zeros, brackets and dots, in hexadecimal or decimal digits, alone
/// or in the middle of a sentence.
/// </summary>
public static partial class CodeReader
{
    /// <summary>Words of sentences that are hexadecimal by chance: "erreur de lecture".</summary>
    private static readonly string[] SmallWords = ["de", "da", "ad"];

    private const int MostDigits = 8, LeastCertainDecimal = 10;

    /// <summary>The numbers of a text that can be codes, those that say so themselves first.</summary>
    public static IReadOnlyList<WrittenCode> Read(string text)
    {
        var joined = Pairs().Replace(text.ToLowerInvariant(), pairs => pairs.Value.Replace(" ", "", StringComparison.Ordinal));
        joined = Groups().Replace(Halves().Replace(joined, "$1$2"), JoinedGroups);
        var small = CodeSurroundings.Without(joined);
        var isStop = StopWord().IsMatch(small);
        var lists = CodeSurroundings.Lists().Matches(small);
        var found = Pieces().Matches(small)
            .Select(piece => (Code: Of(piece, small, isStop), IsInList: lists.Any(list => list.Index < piece.Index
                && piece.Index < list.Index + list.Length)))
            .Where(one => one.Code is not null)
            .ToList();
        var codes = found.Exists(one => !one.IsInList) ? found.Where(one => !one.IsInList) : found.Take(1);
        return [.. codes.Select(one => one.Code!).OrderBy(code => code.Form)];
    }

    /// <summary>True where the only number is a parameter of a stop code.</summary>
    public static bool IsParameterOnly(string text) =>
        CodeSurroundings.HasLabelledParameter(text.ToLowerInvariant()) && Read(text).Count == 0;

    private static WrittenCode? Of(Match piece, string text, bool isStop)
    {
        var word = piece.Groups["word"].Value;
        var isAlone = text.Trim(' ', '(', ')', '[', ']', '.', ':', '*', '"', '-').Length == word.Length;
        var isNamed = !SmallWords.Contains(word) && CodeWord().IsMatch(text[..piece.Index]);
        var corrected = WithZeros(word);
        if (IsDecimal(word)) return Decimal(word, piece.Groups["minus"].Success, isStop);
        var hasMark = corrected.StartsWith("0x", StringComparison.Ordinal);
        var digits = hasMark ? corrected[2..] : corrected;
        if (digits.Length is 0 or > MostDigits * 2 || !digits.All(char.IsAsciiHexDigit)) return null;
        digits = digits.TrimStart('0') is { Length: > 0 } rest && rest.Length > MostDigits ? rest : digits;
        if (digits.Length > MostDigits + 1) return null;
        var hasDigit = digits.Any(char.IsAsciiDigit);
        var form = hasMark || (digits.Length >= MostDigits - 1 && hasDigit) ? CodeForm.Marked
            : isAlone || isNamed ? CodeForm.Named
            : CodeForm.Bare;
        if (form == CodeForm.Bare && !(digits.Length >= 2 && hasDigit && digits.Any(char.IsAsciiLetter))) return null;
        if (!uint.TryParse(digits, NumberStyles.HexNumber, CultureInfo.InvariantCulture, out var number)) number = 0;
        return new WrittenCode(number, digits, form, isStop, hasMark, corrected != word);
    }

    private static WrittenCode? Decimal(string word, bool isNegative, bool isStop)
    {
        if (!long.TryParse(word, NumberStyles.None, CultureInfo.InvariantCulture, out var number)) return null;
        if (isNegative) number = -number;
        return number is >= int.MinValue and <= uint.MaxValue
            ? new WrittenCode(unchecked((uint)number), "", CodeForm.Marked, isStop, HasMark: false, IsCorrected: false)
            : null;
    }

    /// <summary>Groups of digits that are one status where they are put together: "0xc 0000 00e".</summary>
    private static string JoinedGroups(Match groups)
    {
        var joined = string.Concat(groups.Value.Where(letter => letter != ' '));
        var digits = joined.StartsWith("0x", StringComparison.Ordinal) ? joined[2..] : joined;
        return digits.Length is >= MostDigits - 2 and <= MostDigits ? joined : groups.Value;
    }

    /// <summary>Ten digits are the decimal form of a status: hexadecimal ones have eight at most.</summary>
    private static bool IsDecimal(string word) => word.Length == LeastCertainDecimal && word.All(char.IsAsciiDigit);

    /// <summary>The letter O for zero, where the rest is digits.</summary>
    private static string WithZeros(string word)
    {
        if (!word.Contains('o', StringComparison.Ordinal)) return word;
        var zeros = word.Replace('o', '0');
        var rest = zeros.StartsWith("0x", StringComparison.Ordinal) ? zeros[2..] : zeros;
        return rest.Length >= 4 && rest.All(char.IsAsciiHexDigit) && word.Any(char.IsAsciiDigit) ? zeros : word;
    }

    /// <summary>Four pairs of digits: "0x c0 00 00 34".</summary>
    [GeneratedRegex(@"\b(0x ?)?(?=[a-fo]*[0-9])[0-9a-fo]{2}( [0-9a-fo]{2}){3}\b", RegexOptions.ExplicitCapture)]
    private static partial Regex Pairs();

    /// <summary>Any groups, the second of which begins with zero, of what begins as a status does.</summary>
    [GeneratedRegex(@"\b(0x ?)?c[0-9a-fo]{0,3}( 0[0-9a-fo]{0,5})( [0-9a-fo]{1,6})*\b", RegexOptions.ExplicitCapture)]
    private static partial Regex Groups();

    /// <summary>Two halves of four digits each: "c000 0034", "0xc000_0034", "0xc000.0034".</summary>
    [GeneratedRegex(@"\b((?:0x ?)?(?=[a-fo]*[0-9])[0-9a-fo]{4})[ ._`-]([0-9a-fo]{4})\b")]
    private static partial Regex Halves();

    [GeneratedRegex(@"(?<![0-9a-z])(?<minus>-)?(?<word>[0-9a-z]+)", RegexOptions.ExplicitCapture)]
    private static partial Regex Pieces();

    [GeneratedRegex(@"\b(stop|bug ?check|bluescreen|blue screen|stopcode)\b")]
    private static partial Regex StopWord();

    /// <summary>What stands directly before a number that is a code.</summary>
    [GeneratedRegex(@"\b([a-z]*(stop|code|error|status|check|fehler|erreur|errore|codice|codigo)|nr|no|number)[ :.=#(-]*$")]
    private static partial Regex CodeWord();
}
