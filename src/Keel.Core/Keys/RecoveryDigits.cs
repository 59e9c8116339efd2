using System.Buffers.Binary;

namespace Keel.Core.Keys;

/// <summary>
/// A recovery key: eight groups of six digits. Each is a number below 65,536 times eleven, so that a slip in one group shows.
/// </summary>
public static class RecoveryDigits
{
    /// <summary>How many groups, and digits in each.</summary>
    public const int Groups = 8, GroupDigits = 6;

    /// <summary>The bytes that the digits stand for: two a group.</summary>
    public const int Bytes = Groups * sizeof(ushort);

    private const int Divisor = 11;

    /// <summary>
    /// Whether a text is meant as one: nothing but digits and what stands between groups, and about as many as one has.
    /// </summary>
    public static bool LooksLikeOne(ReadOnlySpan<char> text)
    {
        var digits = 0;
        foreach (var letter in text)
        {
            if (char.IsAsciiDigit(letter)) digits++;
            else if (!IsBetween(letter)) return false;
        }

        const int leastMeant = 36;
        return digits >= leastMeant;
    }

    /// <summary>The key; null where it is none.</summary>
    /// <param name="text">The digits, with anything between them.</param>
    /// <param name="wrongGroup">The number of the first group that can't be right, from 1; 0 where the count is wrong.</param>
    public static Secret? Read(ReadOnlySpan<char> text, out int wrongGroup)
    {
        Span<char> digits = stackalloc char[Groups * GroupDigits];
        wrongGroup = 0;
        var count = 0;
        foreach (var letter in text)
        {
            if (IsBetween(letter)) continue;
            if (!char.IsAsciiDigit(letter) || count == digits.Length) return null;
            digits[count++] = letter;
        }

        if (count != digits.Length) return null;
        var secret = new Secret(Bytes);
        for (var group = 0; group < Groups; group++)
        {
            if (Quotient(digits.Slice(group * GroupDigits, GroupDigits)) is { } quotient)
            {
                BinaryPrimitives.WriteUInt16LittleEndian(secret.Bytes[(group * sizeof(ushort))..], quotient);
                continue;
            }

            wrongGroup = group + 1;
            secret.Dispose();
            digits.Clear();
            return null;
        }

        digits.Clear();
        return secret;
    }

    /// <summary>What a group stands for; null where it can't be one.</summary>
    public static ushort? Quotient(ReadOnlySpan<char> group)
    {
        var number = 0;
        if (group.Length != GroupDigits) return null;
        foreach (var digit in group)
        {
            if (!char.IsAsciiDigit(digit)) return null;
            number = (number * 10) + (digit - '0');
        }

        return number % Divisor == 0 && number / Divisor <= ushort.MaxValue ? (ushort)(number / Divisor) : null;
    }

    /// <summary>Blanks and dashes of any kind: what a page, a mail or a word processor puts between groups.</summary>
    private static bool IsBetween(char letter) =>
        char.IsWhiteSpace(letter) || char.GetUnicodeCategory(letter) == System.Globalization.UnicodeCategory.DashPunctuation
            || letter is '\u2212' or '\uFEFF' or '\u200B' or '_' or '.' or ',' or ';' or '/';
}
