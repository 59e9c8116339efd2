using System.Text;

namespace Keel.Cli.Terminal;

/// <summary>
/// A command line of a shell up to the cursor, taken apart into the words that it means. Quotes and backslashes are undone;
/// nothing is ever expanded.
/// </summary>
internal sealed class ShellLine
{
    private ShellLine(IReadOnlyList<string> words, string begun, string begunAsTyped, int? openQuoteAt)
    {
        Words = words;
        Begun = begun;
        BegunAsTyped = begunAsTyped;
        OpenQuoteAt = openQuoteAt;
    }

    /// <summary>The whole words before the cursor.</summary>
    public IReadOnlyList<string> Words { get; }

    /// <summary>What the word at the cursor means so far; empty behind a blank.</summary>
    public string Begun { get; }

    /// <summary>The same as it was typed, quotes and all.</summary>
    public string BegunAsTyped { get; }

    /// <summary>Where in it a quote stands that is not closed yet; null for none.</summary>
    public int? OpenQuoteAt { get; }

    /// <summary>That quote; null for none.</summary>
    public char? OpenQuote => OpenQuoteAt is { } at ? BegunAsTyped[at] : null;

    /// <summary>Takes a line apart.</summary>
    public static ShellLine Read(string line)
    {
        var words = new List<string>();
        var word = new StringBuilder();
        int start = 0, at = 0, piece = 0;
        while (at < line.Length)
        {
            if (line[at] is ' ' or '\t' or '\n')
            {
                if (at > start) words.Add(word.ToString());
                word.Clear();
                start = ++at;
                continue;
            }

            piece = at;
            at = TakePiece(line, at, word);
        }

        var isOpen = at > line.Length && line[piece] is '\'' or '"';
        return new ShellLine(words, word.ToString(), line[start..], isOpen ? piece - start : null);
    }

    /// <summary>What a piece of a line means, quotes and backslashes undone.</summary>
    public static string Unquoted(string piece)
    {
        var word = new StringBuilder();
        for (var at = 0; at < piece.Length;) at = TakePiece(piece, at, word);
        return word.ToString();
    }

    /// <summary>A word as it must be typed to bash so that it means itself, whatever it holds.</summary>
    /// <param name="word">What it is to mean.</param>
    /// <param name="quote">The quote that it stands in; null for none.</param>
    public static string Quoted(string word, char? quote)
    {
        var typed = new StringBuilder();
        foreach (var letter in word) typed.Append(quote switch
        {
            '\'' => letter == '\'' ? "'\\''" : $"{letter}",
            '"' => letter == '!' ? "\"\\!\"" : letter is '"' or '\\' or '$' or '`' ? $"\\{letter}" : $"{letter}",
            _ => letter == '\n' ? "$'\\n'" : IsPlain(letter) ? $"{letter}" : $"\\{letter}"
        });
        return typed.ToString();
    }

    /// <summary>Whether a letter means itself everywhere in a word.</summary>
    private static bool IsPlain(char letter) => char.IsLetterOrDigit(letter) || letter > 0x7F || "%+,-./:=@_".Contains(letter);

    /// <summary>One letter, or all that stands in one pair of quotes; gives the place behind it.</summary>
    private static int TakePiece(string line, int at, StringBuilder word)
    {
        if (line[at] == '\\')
        {
            if (at + 1 < line.Length) word.Append(line[at + 1]);
            return at + 2;
        }

        if (line[at] is not ('\'' or '"'))
        {
            word.Append(line[at]);
            return at + 1;
        }

        var quote = line[at++];
        for (; at < line.Length && line[at] != quote; at++)
        {
            var isEscape = quote == '"' && line[at] == '\\' && at + 1 < line.Length && line[at + 1] is '"' or '\\' or '$' or '`';
            if (isEscape) at++;
            word.Append(line[at]);
        }

        return at + 1;
    }
}
