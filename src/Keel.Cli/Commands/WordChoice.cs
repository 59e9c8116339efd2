using System.CommandLine;
using System.CommandLine.Parsing;

namespace Keel.Cli.Commands;

/// <summary>Options and arguments that take one of several words, and say which where another one is given.</summary>
internal static class WordChoice
{
    /// <summary>Lets an option take one of these words only.</summary>
    public static void TakesOneOf<T>(this Option<T> option, params string[] words)
    {
        option.Validators.Add(result => Check(option.Name, words, result));
        option.CompletionSources.Add(words);
    }

    /// <summary>Lets an argument take one of these words only.</summary>
    public static void TakesOneOf<T>(this Argument<T> argument, params string[] words)
    {
        argument.Validators.Add(result => Check(argument.Name, words, result));
        argument.CompletionSources.Add(words);
    }

    private static void Check(string name, string[] words, SymbolResult result)
    {
        var wrong = result.Tokens
            .Select(token => token.Value)
            .FirstOrDefault(value => !words.Contains(value, StringComparer.Ordinal));
        if (wrong is null) return;
        var right = words.Length == 1 ? words[0] : $"{string.Join(", ", words[..^1])} or {words[^1]}";
        result.AddError($"{name} takes {right}, not \"{wrong}\".");
    }
}
