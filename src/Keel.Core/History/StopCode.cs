using System.Globalization;

namespace Keel.Core.History;

/// <summary>Stop codes as people and logs write them.</summary>
public static class StopCode
{
    /// <summary>As in "0x7B".</summary>
    public static string Text(uint code) => string.Create(CultureInfo.InvariantCulture, $"0x{code:X}");

    /// <summary>The number that a text begins with, in hexadecimal, with or without 0x; null where it is none, or zero.</summary>
    public static uint? AtStartOf(ReadOnlySpan<char> text)
    {
        var digits = text.Trim();
        if (digits.StartsWith("0x", StringComparison.OrdinalIgnoreCase)) digits = digits[2..];
        var length = digits.IndexOfAnyExcept("0123456789abcdefABCDEF");
        if (length >= 0) digits = digits[..length];
        var isNumber = uint.TryParse(digits, NumberStyles.HexNumber, CultureInfo.InvariantCulture, out var code);
        return isNumber && code != 0 ? code : null;
    }
}
