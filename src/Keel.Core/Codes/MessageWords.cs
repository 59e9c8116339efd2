using System.Text.RegularExpressions;

namespace Keel.Core.Codes;

/// <summary>
/// The words of a message as they are compared: small letters, without what every sentence has, endings taken off, and one word
/// for all that mean the same.
/// </summary>
public static partial class MessageWords
{
    private const int LeastStem = 4;

    private static readonly HashSet<string> Small =
    [
        "a", "an", "the", "is", "are", "of", "or", "to", "your", "you", "my", "for", "and", "on", "in", "at", "was", "were", "it",
        "its", "says", "say", "said", "screen", "with", "that", "this", "be", "by", "from", "just", "only", "some", "something",
        "like", "then", "has", "have", "had", "i", "me", "we", "he", "she", "as", "so", "but", "get", "got", "shows", "show",
        "message", "please", "after",
        "could", "can", "did", "do", "does", "will", "would", "which", "when", "there", "all", "time", "any"
    ];

    /// <summary>Words that are taken for another, in their short form.</summary>
    private static readonly Dictionary<string, string> Same = new(StringComparer.Ordinal)
    {
        ["computer"] = "device",
        ["pc"] = "device",
        ["machine"] = "device",
        ["laptop"] = "device",
        ["wasnt"] = "not",
        ["isnt"] = "not",
        ["couldnt"] = "not",
        ["cant"] = "not",
        ["cannot"] = "not",
        ["didnt"] = "not",
        ["doesnt"] = "not",
        ["wont"] = "not",
        ["dont"] = "not",
        ["no"] = "not",
        ["unable"] = "not",
        ["never"] = "not",
        ["failed"] = "fail",
        ["failure"] = "fail",
        ["fails"] = "fail",
        ["os"] = "system",
        ["harddisk"] = "disk",
        ["hdd"] = "disk",
        ["ssd"] = "disk",
        ["drive"] = "disk",
        ["drives"] = "disk",
        ["disc"] = "disk",
        ["boot"] = "start",
        ["booting"] = "start",
        ["bootable"] = "start",
        ["startup"] = "start",
        ["starting"] = "start",
        ["corrupted"] = "corrupt",
        ["corruption"] = "corrupt",
        ["damaged"] = "corrupt",
        ["broken"] = "corrupt",
        ["lost"] = "missing",
        ["gone"] = "missing",
        ["detected"] = "found",
        ["detect"] = "found",
        ["loading"] = "load",
        ["loaded"] = "load",
        ["loads"] = "load",
        ["bcd"] = "bcd",
        ["datafile"] = "data",
        ["repaired"] = "repair",
        ["repairs"] = "repair",
        ["repairing"] = "repair",
        ["fixing"] = "repair",
        ["fix"] = "repair",
        ["restarts"] = "restart",
        ["reboots"] = "restart",
        ["reboot"] = "restart",
        ["rebooting"] = "restart",
        ["restarting"] = "restart",
        ["verified"] = "verify",
        ["verification"] = "verify",
        ["signed"] = "signature",
        ["signing"] = "signature",
        ["connected"] = "connect",
        ["accessed"] = "access",
        ["inaccessible"] = "access-not",
        ["accessible"] = "access",
        ["wrong"] = "problem",
        ["issue"] = "problem",
        ["ran"] = "run",
        ["runs"] = "run",
        ["running"] = "run",
        ["endless"] = "forever",
        ["loops"] = "loop",
        ["looping"] = "loop",
        ["forever"] = "loop",
        ["again"] = "loop",
        ["over"] = "loop",
        ["stuck"] = "hang",
        ["hangs"] = "hang",
        ["frozen"] = "hang",
        ["freezes"] = "hang",
        ["circle"] = "dots",
        ["circling"] = "dots",
        ["spinning"] = "dots",
        ["volumes"] = "volume",
        ["partition"] = "volume",
        ["partitions"] = "volume",
        ["recognized"] = "recognise",
        ["recognised"] = "recognise"
    };

    /// <summary>The words of a text, each once.</summary>
    public static HashSet<string> Of(string text)
    {
        var found = new HashSet<string>(StringComparer.Ordinal);
        var plain = text
            .ToLowerInvariant()
            .Replace("'", "", StringComparison.Ordinal)
            .Replace("\u2019", "", StringComparison.Ordinal);
        foreach (Match piece in Word().Matches(plain))
        {
            var word = piece.Value.Trim('.');
            if (word.Length > 1 && !Small.Contains(word)) found.Add(Same.GetValueOrDefault(word) ?? Short(word));
        }

        return found;
    }

    /// <summary>The word without the ending that only says how it is used.</summary>
    private static string Short(string word)
    {
        foreach (var ending in (string[])["ings", "ing", "ies", "es", "ed", "s"])
        {
            if (word.EndsWith(ending, StringComparison.Ordinal) && word.Length - ending.Length >= LeastStem)
            {
                var stem = word[..^ending.Length];
                return Same.GetValueOrDefault(stem) ?? stem;
            }
        }

        return word;
    }

    [GeneratedRegex(@"[\p{L}\p{Nd}.]+")]
    private static partial Regex Word();
}
