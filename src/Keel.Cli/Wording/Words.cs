using System.Collections;
using System.Globalization;
using Keel.Core.Errors;
using Keel.Core.Facts;

namespace Keel.Cli.Wording;

/// <summary>Makes English of remarks: the only place where findings, steps and refusals become sentences.</summary>
/// <remarks>The sentences stand in tables, with gaps for facts; see <see cref="Template"/> for what a gap may say.</remarks>
internal static class Words
{
    private const string TodoEnding = ".todo";

    private static readonly Dictionary<string, Template> Known = All.ToDictionary(
        one => one.Id,
        one => new Template(one.Text),
        StringComparer.Ordinal);

    /// <summary>Every sentence, by the id of its remark.</summary>
    public static IEnumerable<(string Id, string Text)> All =>
        FindingWords.All
            .Concat(LayoutWords.All)
            .Concat(LinkWords.All)
            .Concat(StepWords.All)
            .Concat(LeftWords.All)
            .Concat(FileWords.All)
            .Concat(HistoryWords.All)
            .Concat(StickWords.All);

    /// <summary>The sentence of a remark. May hold text from a disk: the screen escapes it.</summary>
    public static string Of(Remark remark) =>
        Known.TryGetValue(remark.Id, out var template) ? template.Fill(remark.Facts).Trim() : $"{remark}";

    /// <summary>The sentence, beginning with a capital letter.</summary>
    public static string Sentence(Remark remark) => Capital(Of(remark));

    /// <summary>What to do about a refusal.</summary>
    public static string Todo(Remark refusal) => Of(refusal with { Id = refusal.Id + TodoEnding });

    /// <summary>Why something failed, in one sentence or two; empty where nothing is known.</summary>
    public static string Why(KeelException error)
    {
        if (error.Reason is not { } reason) return error.Why;
        var because = Sentence(reason).TrimEnd('.') + ".";
        return error.Why.Length == 0 ? because : $"{error.Why} {because}";
    }

    /// <summary>What to do about an error; one that refuses a repair tells it with its reason.</summary>
    public static string Todo(KeelException error) =>
        error.Todo.Length == 0 && error.Reason is { } reason ? Todo(reason) : error.Todo;

    /// <summary>A fact as it stands in a sentence.</summary>
    public static string Text(object value) => value switch
    {
        string text => text,
        Remark remark => Of(remark),
        DateTimeOffset time
            => time.ToString(time.TimeOfDay == TimeSpan.Zero ? "yyyy-MM-dd" : "yyyy-MM-dd HH:mm", CultureInfo.InvariantCulture),
        IEnumerable many => string.Join(", ", many.Cast<object>().Select(Text)),
        IFormattable number => number.ToString(null, CultureInfo.InvariantCulture),
        _ => $"{value}"
    };

    /// <summary>A number with its noun: "1 entry", "2 entries".</summary>
    public static string Count(long number, string one, string several) => $"{number} {(number == 1 ? one : several)}";

    internal static string Capital(string text) => text.Length == 0 ? text : char.ToUpperInvariant(text[0]) + text[1..];
}
