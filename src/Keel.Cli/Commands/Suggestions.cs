using System.CommandLine;
using System.CommandLine.Completions;
using System.CommandLine.Parsing;
using Keel.Core.Errors;

namespace Keel.Cli.Commands;

/// <summary>
/// Which words fit next on a command line: commands, options, or the values of one; never two of these at once.
/// </summary>
internal sealed class Suggestions(CommandTree tree)
{
    /// <summary>Options and arguments that name something of this computer, by what the help calls it.</summary>
    private static readonly string[] FileNames =
        ["DISK", "OTHER-DISK", "OUT", "FILE", "IMAGE", "DEVICE", "TARGET", "FOLDER", "DIR", "PATH"];

    /// <summary>Arguments of these commands name something on the disk instead.</summary>
    private static readonly string[] OnTheDisk = ["files", "snapshots"];

    /// <param name="before">The words before it, without the program's name.</param>
    /// <param name="begun">What is typed of it so far.</param>
    public SuggestedWords For(string[] before, string begun)
    {
        ParseResult parsed;
        try
        {
            parsed = tree.Parse(new CommandLine(tree).InFull(before));
        }
        catch (WrongUsageException)
        {
            return SuggestedWords.None;
        }

        if (before.Contains("--")) return ValuesOf(parsed);
        if (before is [.., var last] && OptionsOf(parsed).FirstOrDefault(option => IsCalled(option, last)) is { } option
            && TakesValue(option))
        {
            return ValuesOf(option, parsed);
        }

        return begun.StartsWith('-') ? new SuggestedWords(NamesOf(parsed), TakesFiles: false) : ValuesOf(parsed);
    }

    private static bool IsCalled(Option option, string word) => option.Name == word || option.Aliases.Contains(word);

    private static bool TakesValue(Option option) =>
        option.Arity.MinimumNumberOfValues > 0 || (option.Arity.MaximumNumberOfValues > 0 && option.ValueType != typeof(bool));

    private static IEnumerable<Option> OptionsOf(ParseResult parsed)
    {
        for (var at = parsed.CommandResult; at is not null; at = at.Parent as CommandResult)
        {
            foreach (var option in at.Command.Options.Where(option => at == parsed.CommandResult || option.Recursive))
                yield return option;
        }
    }

    /// <summary>
    /// The names of options that may stand here: those that were typed already only where they may be repeated.
    /// </summary>
    private static string[] NamesOf(ParseResult parsed) =>
    [
        .. OptionsOf(parsed)
            .Where(option => !option.Hidden && option.Name.StartsWith("--", StringComparison.Ordinal))
            .Where(option => option.ValueType.IsArray || parsed.GetResult(option) is null or { Implicit: true })
            .Select(option => option.Name)
            .Distinct()
            .Order(StringComparer.Ordinal)
    ];

    private static SuggestedWords ValuesOf(Option option, ParseResult parsed) => new(
        Known(option.CompletionSources, parsed),
        option.CompletionSources.Count == 0 && FileNames.Contains(option.HelpName));

    /// <summary>The commands, before anything else was typed, and what fits as the next argument.</summary>
    private static SuggestedWords ValuesOf(ParseResult parsed)
    {
        var command = parsed.CommandResult.Command;
        var inner = parsed.CommandResult.Tokens.Count == 0 ? command.Subcommands.Where(one => !one.Hidden) : [];
        var names = inner.Select(one => one.Name).Order(StringComparer.Ordinal).ToList();
        if (NextArgument(parsed) is not { } next) return new SuggestedWords(names, TakesFiles: false);
        var values = Known(next.CompletionSources, parsed);
        return new SuggestedWords([.. names, .. values], values.Count == 0 && IsFile(next, command, parsed));
    }

    private static bool IsFile(Argument argument, Command command, ParseResult parsed)
    {
        var name = argument.Name.Split(' ')[0];
        var isOnDisk = name is "PATH" or "FOLDER" && parsed.CommandResult.Parent is CommandResult above
            && OnTheDisk.Contains(above.Command.Name);
        return FileNames.Contains(name) && !isOnDisk && command.Name != "explain";
    }

    private static Argument? NextArgument(ParseResult parsed) => parsed.CommandResult.Command.Arguments
        .FirstOrDefault(argument =>
            (parsed.GetResult(argument)?.Tokens.Count ?? 0) < argument.Arity.MaximumNumberOfValues);

    private static List<string> Known(
        IEnumerable<Func<CompletionContext, IEnumerable<CompletionItem>>> sources,
        ParseResult parsed)
    {
        var context = parsed.GetCompletionContext();
        return [.. sources.SelectMany(source => source(context)).Select(item => item.InsertText ?? item.Label).Distinct()];
    }
}
