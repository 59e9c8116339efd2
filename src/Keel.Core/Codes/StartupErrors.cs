using System.Globalization;
using System.Text.Json;

namespace Keel.Core.Codes;

/// <summary>The table of startup errors, and how what a technician types is found in it.</summary>
public sealed class StartupErrors
{
    private const string Resource = "Codes/startup-errors.json";
    private const double LooseEnough = 0.6;

    private static readonly HashSet<string> SmallWords = [
        "a",
        "an",
        "the",
        "is",
        "of",
        "or",
        "to",
        "your",
        "for",
        "and",
        "on",
        "in",
        "was",
        "it",
        "says",
        "screen"
    ];

    private StartupErrors(IReadOnlyList<StartupError> all) => All = all;

    /// <summary>Every error of the table.</summary>
    public IReadOnlyList<StartupError> All { get; }

    /// <summary>Reads the table, which is part of the program.</summary>
    public static StartupErrors Load()
    {
        using var stream = typeof(StartupErrors).Assembly.GetManifestResourceStream(Resource)!;
        return new StartupErrors(JsonSerializer.Deserialize(stream, CodesJson.Default.ListStartupError)!);
    }

    /// <summary>Finds a code, the way people type it, or a message, loosely.</summary>
    public CodeMatch Find(string input)
    {
        var text = input.Trim().ToLowerInvariant();
        var isStop = text.StartsWith("stop", StringComparison.Ordinal);
        if (isStop) text = text[4..].Trim(' ', ':', '*');
        if (TryNumber(text) is { } number && ByNumber(number, isStop) is { Count: > 0 } exact)
            return new CodeMatch(input, exact, Guessed: false);
        if (All.FirstOrDefault(error =>
            error.Id.Equals(input.Trim(), StringComparison.OrdinalIgnoreCase)
                || error.Status.Equals(text, StringComparison.OrdinalIgnoreCase)) is { } named
            && text.Length > 0)
        {
            return new CodeMatch(input, [named], Guessed: false);
        }

        if (Hexadecimal(text) is { Length: > 2 } digits && ByDroppedZeros(digits) is { Count: > 0 } near)
            return new CodeMatch(input, near, Guessed: true);
        return new CodeMatch(input, ByMessage(text), Guessed: true);
    }

    private static string? Hexadecimal(string text)
    {
        var digits = text.StartsWith("0x", StringComparison.Ordinal) ? text[2..] : text;
        return digits.Length is > 0 and <= 16 && digits.All(Uri.IsHexDigit) ? digits : null;
    }

    /// <summary>
    /// Hexadecimal as codes are written; decimal where it has only decimal digits and no known code comes of it otherwise.
    /// </summary>
    private static uint? TryNumber(string text)
    {
        if (Hexadecimal(text) is { } digits
            && uint.TryParse(digits, NumberStyles.HexNumber, CultureInfo.InvariantCulture, out var hexadecimal))
        {
            return hexadecimal;
        }

        if (long.TryParse(text, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var number)
            && number is >= int.MinValue and <= uint.MaxValue)
        {
            return unchecked((uint)number);
        }

        return null;
    }

    private List<StartupError> ByNumber(uint number, bool isStop)
    {
        var stop = $"stop 0x{number:X8}";
        var status = $"0x{number:X8}";
        var found = All.Where(error => error.Id == stop || (!isStop && error.Id == status)).ToList();
        return found.Count > 0 ? found : ByDecimal(number);
    }

    /// <summary>"3221225524" was read as hexadecimal digits; read it as the decimal number that it is.</summary>
    private List<StartupError> ByDecimal(uint readAsHexadecimal) =>
        uint.TryParse(readAsHexadecimal.ToString("x"), NumberStyles.None, CultureInfo.InvariantCulture, out var number)
            ? [.. All.Where(error => error.Id == $"0x{number:X8}" || error.Id == $"stop 0x{number:X8}")]
            : [];

    /// <summary>
    /// Codes that become the typed digits when zeros are left out, the fewest zeros first; then codes one digit away.
    /// </summary>
    private List<StartupError> ByDroppedZeros(string digits)
    {
        if (ulong.TryParse(digits, NumberStyles.None, CultureInfo.InvariantCulture, out var wide)
            && wide is > 99_999_999 and <= uint.MaxValue)
        {
            return [.. All.Where(error => error.Id == $"0x{(uint)wide:X8}")];
        }

        var codes =
            All
                .Where(error => error.Kind is "status" or "stop")
                .Select(error => (Error: error, Digits: error.Id[^8..].ToLowerInvariant()))
                .ToList();
        var dropped = codes.Where(code => IsWithoutZeros(digits, code.Digits)).Select(code => code.Error).ToList();
        if (dropped.Count > 0 || digits.Length != 8) return dropped;
        return [.. codes
            .Where(code => code.Digits.Zip(digits).Count(pair => pair.First != pair.Second) == 1)
            .Select(code => code.Error)];
    }

    private static bool IsWithoutZeros(string typed, string code)
    {
        if (typed.Length >= code.Length && typed.TrimStart('0').Length >= code.Length) return false;
        if (typed[0] != code.TrimStart('0')[0]) return false;
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

    private List<StartupError> ByMessage(string text)
    {
        var words = Words(text);
        if (words.Count == 0) return [];
        return [.. All
            .Select(error =>
                (
                    Error: error,
                    Score: error.Says
                        .Append(error.Id)
                        .Append(error.Status.Replace('_', ' '))
                        .Max(wording => Likeness(words, Words(wording)))))
            .Where(match => match.Score >= LooseEnough)
            .OrderByDescending(match => match.Score)
            .Select(match => match.Error)
            .Take(3)];
    }

    /// <summary>
    /// How much two wordings share: shared words over the words of the shorter, but at least two words or the whole.
    /// </summary>
    private static double Likeness(HashSet<string> typed, HashSet<string> wording)
    {
        var shared = typed.Count(wording.Contains);
        var shorter = Math.Min(typed.Count, wording.Count);
        if (shorter == 0 || (shared < 2 && shared < Math.Max(typed.Count, wording.Count)))
            return shared > 0 && typed.Count == 1 ? 0.6 + (0.1 / wording.Count) : 0;
        return ((double)shared / shorter * 0.8) + ((double)shared / Math.Max(typed.Count, wording.Count) * 0.2);
    }

    private static HashSet<string> Words(string text) =>
        [.. text
            .ToLowerInvariant()
            .Replace("'", "", StringComparison.Ordinal)
            .Split([' ', '.', ',', ':', ';', '!', '-', '_', '"', '/', '\\', '(', ')'], StringSplitOptions.RemoveEmptyEntries)
            .Where(word => !SmallWords.Contains(word))];
}
