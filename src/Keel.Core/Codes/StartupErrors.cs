using System.Globalization;
using System.Text.Json;
using System.Text.RegularExpressions;

namespace Keel.Core.Codes;

/// <summary>The table of startup errors, and how what a technician types is found in it.</summary>
public sealed partial class StartupErrors
{
    private const string Resource = "Codes/startup-errors.json";

    /// <summary>A status as a program hands it on, with this bit set (HRESULT_FROM_NT of MS-ERREF).</summary>
    private const uint HandedOn = 0x10000000, Severe = 0xC0000000, LeastStatus = 0x10000, HypervisorStop = 0x20001;

    /// <summary>The upper half of an error that a program hands on, and the least that is read so.</summary>
    private const uint OfPrograms = 0x80070000, LeastOfPrograms = 0x100;

    /// <summary>The upper half of a stop code that a small memory dump was written of.</summary>
    private const uint OfSmallDump = 0x1000;

    /// <summary>The upper half of a stop code that a debugger was asked about first.</summary>
    private const uint OfDebugger = 0x8000;

    /// <summary>What may stand between the words of a name.</summary>
    private static readonly char[] NameBreaks = [.. " _-,.:;()\"'\t\r\n*?!"];

    private readonly CodeNames names = new();

    private readonly Lazy<MessageMatcher> matcher;

    private StartupErrors(IReadOnlyList<StartupError> all)
    {
        All = all;
        matcher = new Lazy<MessageMatcher>(() => new MessageMatcher(all));
    }

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
        if (CodeReader.IsParameterOnly(input)) return new CodeMatch(input, [], Guessed: false) { IsParameterOnly = true };
        var codes = CodeReader.Read(input);
        return OfEventLog(input)
            ?? Written(input, codes)
            ?? Named(input, codes)
            ?? Guessed(input, codes)
            ?? Misread(input)
            ?? Told(input);
    }

    /// <summary>What has the form of a code, and is explained.</summary>
    private CodeMatch? Written(string input, IReadOnlyList<WrittenCode> codes)
    {
        foreach (var code in codes.Where(code => code.Form == CodeForm.Marked))
        {
            if (Explained(code) is { } error) return new CodeMatch(input, [error], code.IsCorrected);
        }

        return null;
    }

    /// <summary>What is called a code, or by the name of one.</summary>
    private CodeMatch? Named(string input, IReadOnlyList<WrittenCode> codes)
    {
        var certain = codes.Where(code => code.IsCertain).ToList();
        foreach (var code in certain)
        {
            if (Explained(code) is { } error) return new CodeMatch(input, [error], code.IsCorrected);
        }

        if ((Named(input) ?? NamedWithin(input)) is { } named) return new CodeMatch(input, [named], Guessed: false);
        foreach (var code in certain)
        {
            if (Known(code) is { } error) return new CodeMatch(input, [error], code.IsCorrected);
        }

        return null;
    }

    /// <summary>
    /// What may be a code by a slip: decimal digits, a digit left out or doubled, or a number in the middle of a sentence that is
    /// about a start.
    /// </summary>
    private CodeMatch? Guessed(string input, IReadOnlyList<WrittenCode> codes)
    {
        foreach (var code in codes.Where(code => !code.IsCertain))
        {
            if (matcher.Value.IsAboutStarting(input) && Explained(code) is { } error)
                return new CodeMatch(input, [error], Guessed: true);
        }

        foreach (var code in codes.Where(code => code.IsCertain))
        {
            IReadOnlyList<StartupError> near = [.. CodeGuess.Of(code.Digits, Possible(code)), .. AsDecimal(code)];
            if (near.Count > 0) return new CodeMatch(input, near, Guessed: true) { IsChoice = near.Count > 1 };
        }

        return null;
    }

    /// <summary>The event log writes stops in decimal digits, under a name of their own (Kernel-Power, event 41).</summary>
    private CodeMatch? OfEventLog(string input)
    {
        if (EventCode().Match(input) is not { Success: true } found) return null;
        if (!uint.TryParse(found.Groups["number"].ValueSpan, CultureInfo.InvariantCulture, out var number)) return null;
        var code = new WrittenCode(number, "", CodeForm.Marked, IsStop: true, HasMark: false, IsCorrected: false);
        return (Explained(code) ?? Known(code)) is { } error ? new CodeMatch(input, [error], Guessed: false) : null;
    }

    /// <summary>A code of which one digit was taken for a letter that looks like it.</summary>
    private CodeMatch? Misread(string input)
    {
        foreach (Match word in MisreadCode().Matches(input.ToLowerInvariant()))
        {
            var digits = word.Groups["digits"].Value;
            var at = digits.AsSpan().IndexOfAny("gilqsz");
            if (at < 0 || digits.AsSpan(at + 1).IndexOfAny("gilqsz") >= 0) continue;
            var near = LooksLike(digits[at])
                .Select(digit => ById(IdOf(Convert.ToUInt32($"{digits[..at]}{digit}{digits[(at + 1)..]}", 16), isStop: false)))
                .OfType<StartupError>()
                .ToList();
            if (near.Count > 0) return new CodeMatch(input, near, Guessed: true) { IsChoice = near.Count > 1 };
        }

        return null;
    }

    private static string LooksLike(char letter) => letter switch
    {
        'g' => "96c",
        'q' => "9",
        's' => "5",
        'z' => "2",
        _ => "1"
    };

    private CodeMatch Told(string input)
    {
        var fitting = matcher.Value.Find(input);
        if (fitting.Count == 0 && names.Named(input) is { } other)
            return new CodeMatch(input, [Unexplained(other.Number, other.IsStop)], Guessed: false);
        return fitting.Count > 0 && matcher.Value.Verbatim(input) is { } told
            && (told == fitting[0].Error || matcher.Value.IsWhole(told, input))
            ? new CodeMatch(input, [told], Guessed: false)
            : new CodeMatch(input, [.. fitting.Select(match => match.Error)], Guessed: true);
    }

    /// <summary>The error of the table that has the code.</summary>
    private StartupError? Explained(WrittenCode code) =>
        Readings(code)
            .Select(number => ById(IdOf(number, isStop: IsStop(number))))
            .FirstOrDefault(error => error is not null);

    private StartupError? ById(string id) => All.FirstOrDefault(error => error.Id == id);

    /// <summary>
    /// What a number can be: as it is; a status that was handed on; a stop as a small memory dump has it; an error as programs
    /// number them (HRESULT_FROM_WIN32 of MS-ERREF), which small ones are never meant by.
    /// </summary>
    private static IEnumerable<uint> Readings(WrittenCode code)
    {
        var isTooLong = code.Digits.TrimStart('0').Length > 8;
        if (isTooLong) yield break;
        yield return code.Number;
        if ((code.Number & (Severe | HandedOn)) == (Severe | HandedOn)) yield return code.Number & ~HandedOn;
        if (code.Number >> 16 is OfSmallDump or OfDebugger) yield return code.Number & 0xFFFF;
        if (code.Number is >= LeastOfPrograms and < LeastStatus) yield return OfPrograms | code.Number;
    }

    /// <summary>Decimal digits where no hexadecimal reading is known: a stop, or the end of a status.</summary>
    private IEnumerable<StartupError> AsDecimal(WrittenCode code)
    {
        if (code.HasMark || code.Digits.Length is 0 or > 5 || !code.Digits.All(char.IsAsciiDigit)) yield break;
        var isWholeEnd = code.Digits.Length == 3;
        if (isWholeEnd && ById(IdOf(Severe | code.Number, isStop: false)) is { } end) yield return end;
        var number = uint.Parse(code.Digits, CultureInfo.InvariantCulture);
        if (ById(IdOf(number, isStop: true)) is { } stop) yield return stop;
    }

    /// <summary>Stops have small numbers, all but one: what the hypervisor ends with.</summary>
    private static bool IsStop(uint number) => number is < LeastStatus or HypervisorStop;

    private static string IdOf(uint number, bool isStop) => isStop ? $"stop 0x{number:X8}" : $"0x{number:X8}";

    /// <summary>An error by the published name of its code, or by its own words to the letter.</summary>
    private StartupError? Named(string input)
    {
        var text = input.Trim();
        if (All.FirstOrDefault(error =>
            error.Id.Equals(text, StringComparison.OrdinalIgnoreCase)
                || (text.Length > 0 && error.Status.Equals(text, StringComparison.OrdinalIgnoreCase))) is { } error)
        {
            return error;
        }

        if (names.Named(text) is not { } named) return null;

        // Some names are sentences: "no boot device" is what a firmware says, and the name of a stop code that nobody meets.
        return ById(IdOf(named.Number, named.IsStop))
            ?? (text.Contains('_', StringComparison.Ordinal) ? Unexplained(named.Number, named.IsStop) : null);
    }

    /// <summary>
    /// An error by the published name of its code in the middle of a text, its words parted by blanks or underscores. Short names
    /// are found in many sentences that mean something else.
    /// </summary>
    private StartupError? NamedWithin(string input)
    {
        const int leastPartsOfStop = 3, leastPartsOfStatus = 5;
        const string statusPrefix = "STATUS_";
        var text = $"_{string.Join('_', input.ToUpperInvariant().Split(NameBreaks, StringSplitOptions.RemoveEmptyEntries))}_";
        return All
            .Where(error => error.Status.Length > 0)
            .Select(error => (Error: error, Name: error.Status.StartsWith(statusPrefix, StringComparison.Ordinal)
                ? error.Status[statusPrefix.Length..]
                : error.Status))
            .Where(one => one.Name.Split('_').Length >= (one.Error.Kind == "stop" ? leastPartsOfStop : leastPartsOfStatus)
                && text.Contains($"_{one.Name}_", StringComparison.Ordinal))
            .OrderByDescending(one => one.Name.Length)
            .Select(one => one.Error)
            .FirstOrDefault();
    }

    /// <summary>A code that has a published name, and no explanation here.</summary>
    private StartupError? Known(WrittenCode code)
    {
        foreach (var number in Readings(code))
        {
            var isStop = IsStop(number);
            if ((isStop ? names.OfStop(number) : names.OfStatus(number)) is not null) return Unexplained(number, isStop);
        }

        return null;
    }

    private StartupError Unexplained(uint number, bool isStop) => new(
        IdOf(number, isStop),
        (isStop ? names.OfStop(number) : names.OfStatus(number)) ?? "",
        isStop ? "stop" : "status",
        Says: [],
        Meaning: "",
        Links: [],
        Causes: [],
        Next: ["keel diagnose DISK"]);

    private IEnumerable<StartupError> Possible(WrittenCode code) =>
        code.IsStop ? All.Where(error => error.Kind == "stop" || error.Id.StartsWith("0xC00002", StringComparison.Ordinal)) : All;

    [GeneratedRegex(
        @"\bbugcheckcode\W{0,4}(?<number>[1-9][0-9]{0,9})(?![0-9a-fx])",
        RegexOptions.IgnoreCase | RegexOptions.ExplicitCapture)]
    private static partial Regex EventCode();

    [GeneratedRegex(@"(?<![0-9a-z])(0x)?(?<digits>[0-9a-fgilqsz]{8})(?![0-9a-z])", RegexOptions.ExplicitCapture)]
    private static partial Regex MisreadCode();
}
