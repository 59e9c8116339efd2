namespace Keel.Core.Codes;

/// <summary>
/// Finds the error whose wording a retold message is nearest to. Words that few errors have count most; a slip of one letter in a
/// long word is forgiven.
/// </summary>
public sealed class MessageMatcher
{
    private const double Enough = 0.55, SlipWorth = 0.8, NearBest = 0.85, WordingShare = 0.55, KnownShare = 0.2;
    private const int LeastPart = 3, LongWord = 5, Most = 3, LeastWordsOfPart = 4, LeastWordsOfWhole = 2;

    /// <summary>What a word counts that no wording has: less than a rare one, since people tell much besides.</summary>
    private const double UnknownWeight = 2;
    private readonly List<(StartupError Error, HashSet<string> Words)> wordings;
    private readonly Dictionary<string, double> weights;
    private readonly Dictionary<StartupError, HashSet<string>> vocabularies;
    private readonly List<(StartupError Error, string Plain)> plain;

    /// <param name="errors">The errors that can be meant.</param>
    public MessageMatcher(IReadOnlyList<StartupError> errors)
    {
        wordings =
        [
            .. errors.SelectMany(error => error.Says
                .Concat(error.Abroad ?? [])
                .Append(error.Kind is "status" or "stop" ? error.Status : error.Id)
                .Select(wording => (error, MessageWords.Of(wording.Replace('_', ' ')))))
        ];
        vocabularies = wordings
            .GroupBy(wording => wording.Error)
            .ToDictionary(
                group => group.Key,
                group => group.SelectMany(wording => wording.Words).ToHashSet(StringComparer.Ordinal));
        plain =
        [
            .. errors.SelectMany(error => error.Says
                .Concat(error.Abroad ?? [])
                .Append(error.Kind is "status" or "stop" ? "" : error.Id)
                .Select(wording => (error, MessageWords.Plain(wording)))
                .Where(one => WordsOf(one.Item2) >= LeastWordsOfWhole))
        ];
        weights = wordings
            .SelectMany(wording => wording.Words.Select(word => (Word: word, wording.Error.Id)))
            .Distinct()
            .GroupBy(pair => pair.Word)
            .ToDictionary(
                group => group.Key,
                group => Math.Log(1 + ((double)errors.Count / group.Count())),
                StringComparer.Ordinal);
    }

    /// <summary>
    /// The error whose words stand in the text, or a good part of whose words the text is, to the letter; null where none is, or
    /// where several are.
    /// </summary>
    public StartupError? Verbatim(string text)
    {
        var typed = MessageWords.Plain(text);
        var whole = plain.Where(wording => typed.Contains(wording.Plain, StringComparison.Ordinal)).ToList();
        if (whole.Count > 0)
        {
            var longest = whole.Max(wording => wording.Plain.Length);
            return OnlyOne(whole.Where(wording => wording.Plain.Length == longest));
        }

        return WordsOf(typed) < LeastWordsOfPart
            ? null
            : OnlyOne(plain.Where(wording => wording.Plain.Contains(typed, StringComparison.Ordinal)));
    }

    /// <summary>Whether a text has any word of a wording: that it may be about a start at all.</summary>
    public bool IsAboutStarting(string text) => MessageWords.Of(text).Any(weights.ContainsKey);

    /// <summary>The errors that fit, the best first; none where nothing fits well enough.</summary>
    public IReadOnlyList<(StartupError Error, double Score)> Find(string text)
    {
        var typed = MessageWords.Of(text).SelectMany(Parted).ToHashSet(StringComparer.Ordinal);
        if (typed.Count == 0) return [];
        var scored = wordings
            .GroupBy(wording => wording.Error)
            .Select(group => (
                Error: group.Key,
                Score: group.Max(wording => Likeness(typed, wording.Words)) is var best and > 0
                    ? best + (KnownShare * KnownTo(group.Key, typed))
                    : 0))
            .Where(match => match.Score >= Enough)
            .OrderByDescending(match => match.Score)
            .ToList();
        return [.. scored.Where(match => match.Score >= scored[0].Score * NearBest).Take(Most)];
    }

    /// <summary>Two words of the wordings that somebody wrote as one: "bootsector"; else the word.</summary>
    private IEnumerable<string> Parted(string word)
    {
        if (weights.ContainsKey(word)) return [word];
        for (var at = LeastPart; at <= word.Length - LeastPart; at++)
        {
            string[] parts = [.. MessageWords.Of(word[..at]), .. MessageWords.Of(word[at..])];
            if (parts.Length == 2 && Array.TrueForAll(parts, weights.ContainsKey)) return parts;
        }

        return [word];
    }

    /// <summary>Whether a text is a wording of an error, and nothing besides.</summary>
    public bool IsWhole(StartupError error, string text) =>
        MessageWords.Plain(text) is var typed && plain.Exists(wording => wording.Error == error && wording.Plain == typed);

    private static StartupError? OnlyOne(IEnumerable<(StartupError Error, string Plain)> found) =>
        found.Select(wording => wording.Error).Distinct().ToList() is [var only] ? only : null;

    private static int WordsOf(string plain) => plain.Count(letter => letter == ' ') - 1;

    /// <summary>
    /// What the two share, in weight: mostly of the wording, since people tell more than the screen says; a little of what was
    /// typed, since a wording of two words is found in many sentences.
    /// </summary>
    private double Likeness(HashSet<string> typed, HashSet<string> wording)
    {
        double shared = 0, whole = 0;
        var count = 0;
        foreach (var word in wording)
        {
            var weight = WeightOf(word);
            whole += weight;
            var worth = typed.Contains(word) ? 1 : typed.Any(other => IsSlip(other, word)) ? SlipWorth : 0;
            shared += weight * worth;
            if (worth > 0) count++;
        }

        if (whole == 0 || (count < 2 && wording.Count > 1 && typed.Count > 1)) return 0;
        var told = typed.Sum(WeightOf);
        return (shared / whole * WordingShare) + (Math.Min(1, shared / told) * (1 - WordingShare - KnownShare));
    }

    /// <summary>How much of what was typed an error has in any of its wordings: people mix them.</summary>
    private double KnownTo(StartupError error, HashSet<string> typed)
    {
        var vocabulary = vocabularies[error];
        return typed.Where(vocabulary.Contains).Sum(WeightOf) / typed.Sum(WeightOf);
    }

    private double WeightOf(string word) => weights.GetValueOrDefault(word, UnknownWeight);

    /// <summary>One letter other, missing, too many, or two swapped.</summary>
    private static bool IsSlip(string typed, string word)
    {
        if (word.Length < LongWord || Math.Abs(typed.Length - word.Length) > 1) return false;
        var start = typed.AsSpan().CommonPrefixLength(word);
        var left = typed.AsSpan(start);
        var right = word.AsSpan(start);
        if (left.Length == right.Length)
        {
            return left.Length > 0
                && (left[1..].SequenceEqual(right[1..])
                    || (left.Length > 1 && left[0] == right[1] && left[1] == right[0] && left[2..].SequenceEqual(right[2..])));
        }

        return left.Length > right.Length ? left[1..].SequenceEqual(right) : right[1..].SequenceEqual(left);
    }
}
