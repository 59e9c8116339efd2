namespace Keel.Core.Codes;

/// <summary>
/// Which known codes a mistyped one can be, by rules that have names: digits left out, a digit doubled, neighbours swapped.
/// </summary>
public static class CodeGuess
{
    private const int LeastDigits = 3;

    /// <summary>The codes of which such slips make the typed digits; those where zeros alone were left out come first.</summary>
    /// <param name="digits">As typed, in small hexadecimal digits.</param>
    /// <param name="codes">The codes that it can be.</param>
    public static IReadOnlyList<StartupError> Of(string digits, IEnumerable<StartupError> codes)
    {
        if (digits.Length < LeastDigits) return [];
        var known = codes
            .Where(error => error.Kind is "status" or "stop")
            .Select(error => (Error: error, Digits: error.Id[^8..].ToLowerInvariant()))
            .ToList();
        var zeros = known.Where(code => IsWithoutZeros(digits, code.Digits)).Select(code => code.Error).ToList();
        if (zeros.Count > 0) return zeros;
        return
        [
            .. known
                .Where(code => IsDropped(digits, code.Digits) || IsDoubled(digits, code.Digits) || IsSwapped(digits, code.Digits))
                .Select(code => code.Error)
        ];
    }

    private static bool IsWithoutZeros(string typed, string code)
    {
        if (typed.Length >= code.Length || typed[0] != code.TrimStart('0')[0]) return false;
        var at = 0;
        foreach (var digit in code)
        {
            if (at < typed.Length && typed[at] == digit)
                at++;
            else if (digit != '0')
                return false;
        }

        return at == typed.Length;
    }

    /// <summary>One digit of the code is missing; of one that is written with its leading zeros, too.</summary>
    private static bool IsDropped(string typed, string code) =>
        typed.Length == code.Length - 1 && IsOneMore(code, typed);

    /// <summary>One digit stands there twice.</summary>
    private static bool IsDoubled(string typed, string code)
    {
        if (typed.Length != code.Length + 1) return false;
        for (var at = 1; at < typed.Length; at++)
        {
            if (typed[at] == typed[at - 1] && typed.Remove(at, 1) == code) return true;
        }

        return false;
    }

    private static bool IsSwapped(string typed, string code)
    {
        if (typed.Length != code.Length) return false;
        var at = typed.AsSpan().CommonPrefixLength(code);
        return at + 1 < code.Length
            && typed[at] == code[at + 1]
            && typed[at + 1] == code[at]
            && typed.AsSpan(at + 2).SequenceEqual(code.AsSpan(at + 2));
    }

    private static bool IsOneMore(string longer, string shorter)
    {
        var at = longer.AsSpan().CommonPrefixLength(shorter);
        return longer.AsSpan(at + 1).SequenceEqual(shorter.AsSpan(at));
    }
}
