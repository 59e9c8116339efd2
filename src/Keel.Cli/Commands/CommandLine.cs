using System.CommandLine;
using System.CommandLine.Parsing;
using System.Globalization;
using Keel.Cli.Terminal;
using Keel.Core.Errors;

namespace Keel.Cli.Commands;

/// <summary>
/// Reads a command line as it was meant: commands may be abbreviated; a word that nothing knows is never passed over, and the
/// nearest right one is named.
/// </summary>
internal sealed class CommandLine(CommandTree tree)
{
    /// <summary>
    /// An option, as far as that can be told before parsing: options with a value of their own have it behind them.
    /// </summary>
    private static readonly string[] CommonWithValue = ["--format", "--logbook", "--color"];

    /// <exception cref="WrongUsageException">It asks for nothing that keel does.</exception>
    public ParseResult Read(string[] arguments)
    {
        var words = InFull(Helped(arguments));
        var parsed = tree.Parse(words);
        if (parsed.Action is System.CommandLine.Help.HelpAction) return parsed;
        RefuseSwallowedOptions(parsed);
        RefuseEmptyWords(parsed);
        if (parsed.Errors.Count > 0) throw Wrong(parsed);
        return parsed;
    }

    /// <summary>"help store add" asks for the same as "store add --help".</summary>
    private static string[] Helped(string[] arguments)
    {
        if (arguments is ["help", .. var rest]) return [.. rest, "--help"];
        return arguments.Any(MeantWords.AsksForHelp)
            ? [.. arguments.TakeWhile(word => !MeantWords.AsksForHelp(word)).Where(word => !word.StartsWith('-')), "--help"]
            : arguments;
    }

    /// <summary>The same with the names of commands in full.</summary>
    /// <exception cref="WrongUsageException">A name is none, or may be several.</exception>
    public string[] InFull(string[] arguments)
    {
        var words = arguments.ToArray();
        var at = PlaceOfWord(words, 0);
        if (at < 0) return words;
        words[at] = Meant(words[at], CommandTree.Names, "keel", words[(at + 1)..]);
        var inner = tree.SubcommandsOf(words[at]);
        var next = PlaceOfWord(words, at + 1);
        if (inner.Count == 0 || next < 0) return words;
        if (!CommandTree.TakesWordsOfItsOwn(words[at]) || IsSlipOf(words[next], inner))
            words[next] = Meant(words[next], inner, $"keel {words[at]}", words[(next + 1)..]);
        return words;
    }

    /// <summary>Whether a word that may be a disk is rather a command, written wrongly or in part.</summary>
    private static bool IsSlipOf(string word, IReadOnlyList<string> known) =>
        !word.Contains('/', StringComparison.Ordinal)
        && !Path.Exists(word)
        && (NearWords.BeginningWith(word, known).Count > 0 || NearWords.Nearest(word, known) is not null);

    private static int PlaceOfWord(string[] words, int from)
    {
        for (var at = from; at < words.Length; at++)
        {
            if (words[at] == "--") return -1;
            if (!words[at].StartsWith('-')) return at;
            if (CommonWithValue.Contains(words[at])) at++;
        }

        return -1;
    }

    private static string Meant(string word, IReadOnlyList<string> known, string before, IReadOnlyList<string> rest)
    {
        var candidates = NearWords.BeginningWith(word, known);
        if (candidates is [var one]) return one;
        if (candidates.Count > 1)
        {
            throw new WrongUsageException(
                $"\"{word}\" may be {string.Join(", ", candidates.SkipLast(1))} or {candidates[^1]}.",
                "",
                $"Write a letter more; '{before} --help' lists the commands.");
        }

        var instead = before == "keel" ? MeantWords.Instead(word, rest) : null;
        var near = NearWords.Nearest(word, known) is { } found ? $"Did you mean '{before} {found}'?" : null;
        throw new WrongUsageException(
            $"There is no command \"{word}\".",
            "",
            instead ?? near ?? $"'{before} --help' lists the commands.");
    }

    /// <summary>What looks like an option and was taken for a value: a slip, which must never be passed over.</summary>
    private static void RefuseSwallowedOptions(ParseResult parsed)
    {
        var command = parsed.CommandResult.Command;
        var before = "";
        foreach (var token in parsed.Tokens.TakeWhile(token => token.Type != TokenType.DoubleDash))
        {
            var behind = before;
            before = token.Value;
            if (token.Type != TokenType.Argument || token.Value.Length < 2 || token.Value[0] != '-') continue;
            if (long.TryParse(token.Value, NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out _)) continue;
            if (token.Value[1] != '-' && CommandTree.TakesDashedWords(command)) continue;
            var options = OptionsOf(parsed.CommandResult).ToList();
            if (options.Contains(token.Value))
            {
                throw new WrongUsageException(
                    $"{behind} needs a value, and {token.Value} stands in its place.",
                    "",
                    HelpFor(parsed));
            }

            var begun = NearWords.BeginningWith(token.Value, options);
            var near = begun is [var one] ? one : NearWords.Nearest(token.Value, options);
            var todo = MeantWords.OptionInstead(token.Value, options) is { } ours ? $"Here it is {ours}. {HelpFor(parsed)}"
                : near is not null ? $"Did you mean {near}? {HelpFor(parsed)}"
                : HelpFor(parsed);
            throw new WrongUsageException($"There is no option {token.Value} here.", "", todo);
        }
    }

    /// <summary>
    /// An empty word, mostly from a variable of the shell that is not set: nothing has an empty name, and what was meant can't
    /// be guessed.
    /// </summary>
    private static void RefuseEmptyWords(ParseResult parsed)
    {
        Token? behind = null;
        foreach (var token in parsed.Tokens)
        {
            var before = behind;
            behind = token;
            if (token.Type != TokenType.Argument || !string.IsNullOrWhiteSpace(token.Value)) continue;
            throw new WrongUsageException(
                before?.Type == TokenType.Option
                    ? $"{before.Value} needs a value, and an empty word stands in its place."
                    : $"'{PathOf(parsed.CommandResult)}' got an empty word.",
                "A variable of the shell that is not set leaves one.",
                HelpFor(parsed));
        }
    }

    private static IEnumerable<string> OptionsOf(CommandResult? command)
    {
        for (var current = command; current is not null; current = current.Parent as CommandResult)
        {
            foreach (var option in current.Command.Options.Where(option => current == command || option.Recursive))
                yield return option.Name;
        }
    }

    private static WrongUsageException Wrong(ParseResult parsed)
    {
        var path = PathOf(parsed.CommandResult);
        if (parsed.UnmatchedTokens is [var word, ..])
            return new WrongUsageException($"\"{word}\" is one word more than '{path}' takes.", "", HelpFor(parsed));
        var missing = parsed.CommandResult.Command.Arguments
            .Where(argument => argument.Arity.MinimumNumberOfValues > 0 && (parsed.GetResult(argument)?.Tokens.Count ?? 0) == 0)
            .Select(argument => argument.Name)
            .ToList();
        var inner = parsed.CommandResult.Command.Subcommands.Select(command => command.Name).ToList();
        var what = missing.Count > 0 ? $"'{path}' needs {string.Join(" and ", missing)}."
            : parsed.CommandResult.Command.Action is null && inner.Count > 0
                ? $"'{path}' needs a command: {string.Join(", ", inner[..^1])} or {inner[^1]}."
            : ParseMessage.OneLine(parsed.Errors[0].Message);
        return new WrongUsageException(what, "", HelpFor(parsed));
    }

    private static string HelpFor(ParseResult parsed) => $"'{PathOf(parsed.CommandResult)} --help' says what it takes.";

    /// <summary>The whole command, as in "keel store create".</summary>
    private static string PathOf(CommandResult command)
    {
        var names = new List<string>();
        for (var current = command; current?.Parent is not null; current = current.Parent as CommandResult)
            names.Insert(0, current.Command.Name);
        return string.Join(' ', names.Prepend("keel"));
    }
}
