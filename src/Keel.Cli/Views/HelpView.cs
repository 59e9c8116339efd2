using System.CommandLine;
using Keel.Cli.Terminal;

namespace Keel.Cli.Views;

/// <summary>
/// Prints what a command takes, so that it fits a console of 25 lines: what is the command's own line by line, what many commands
/// share by its names. The manual page has all of it.
/// </summary>
internal sealed class HelpView(Output output)
{
    /// <summary>What nearly everybody comes for, in the order in which it is needed.</summary>
    private static readonly string[] First =
        ["explain", "survey", "diagnose", "history", "mend", "undo", "logbook", "report"];

    private static readonly string[] ByHand =
    [
        "layout", "mbr", "sector", "store", "files", "firmware", "bootini", "services", "programs", "snapshots", "disk"
    ];

    /// <summary>Options that say which disks are meant, and what they are.</summary>
    private static readonly string[] OfDisks =
    [
        "--with", "--variables", "--firmware", "--sector", "--inside", "--kind", "--parents", "--unlock", "--keys", "--removable"
    ];

    /// <summary>Shows the help of a command, or of the whole program.</summary>
    public void Show(RootCommand root, Command command)
    {
        if (command is RootCommand) ShowRoot(root);
        else ShowCommand(root, command);
    }

    private void ShowRoot(RootCommand root)
    {
        output.Paragraph(root.Description!);
        output.Paragraph("Usage: keel COMMAND [OPTION...]; keel alone leads through all of it.");
        output.Heading("Commands:");
        var known = root.Subcommands.ToDictionary(command => command.Name, StringComparer.Ordinal);
        output.Columns([.. First.Where(known.ContainsKey).Select(name => Row(Words(known[name]), known[name].Description))]);
        output.Line();
        output.Paragraph("By hand, each with commands of its own:");
        output.Paragraph(string.Join(' ', ByHand), indent: 2, hang: 0);
        output.Paragraph("Many machines, media, practice, the shell:");
        output.Paragraph(
            string.Join(' ', known.Keys.Where(name => !First.Contains(name) && !ByHand.Contains(name))),
            indent: 2,
            hang: 0);
        ShowShared("Everywhere", root.Options.Where(IsShown));
        output.Paragraph("'keel help COMMAND' tells more, 'keel manual' and 'man keel' all of it.");
    }

    private void ShowCommand(RootCommand root, Command command)
    {
        var path = PathOf(command);
        var arguments = string.Concat(command.Arguments.Select(argument => $" {Written(argument)}"));
        var inner = command.Subcommands.Count > 0 ? command.Action is null ? " COMMAND" : " [COMMAND]" : "";
        output.Paragraph($"Usage: keel {path}{inner}{arguments} [OPTION...]", style: "bold", hang: 2);
        output.Paragraph(command.Description ?? "");
        var own = command.Options.Where(option => IsShown(option) && !OfDisks.Contains(option.Name)).ToList();
        if (command.Subcommands.Count > 0)
        {
            output.Heading("Commands:");
            output.Columns([.. command.Subcommands.Select(one => Row(one.Name, one.Description))]);
        }

        if (command.Arguments.Count + own.Count > 0) output.Line();
        output.Columns(
        [
            .. command.Arguments.Select(argument => Row(argument.Name, argument.Description)),
            .. own.Select(option => Row(Written(option), option.Description))
        ]);
        output.Line();
        ShowShared("Which disk", command.Options.Where(option => OfDisks.Contains(option.Name)));
        ShowShared("Everywhere", root.Options.Where(option => IsShown(option) && option.Recursive));
        output.Paragraph($"All of it: keel manual {path.Split(' ')[0]}");
    }

    private void ShowShared(string what, IEnumerable<Option> options)
    {
        var names = options.Select(option => option.Name).ToList();
        if (names.Count > 0) output.Paragraph($"{what}: {string.Join(", ", names)}", hang: 2);
    }

    private (string, string?)[] Row(string what, string? description)
    {
        const int between = 4;
        var text = description ?? "";
        return [(what, "bold"), (what.Length + between + text.Length <= output.Width ? text : Brief(text), null)];
    }

    /// <summary>The first part of a description: what it is, without how.</summary>
    private static string Brief(string description)
    {
        var ends = new[] { "; ", ": ", " (", ". " }
            .Select(mark => description.IndexOf(mark, StringComparison.Ordinal))
            .Where(at => at > 0)
            .ToList();
        return ends.Count == 0 ? description : description[..ends.Min()];
    }

    private static bool IsShown(Option option) => !option.Hidden && option.Name != "--help";

    private static string PathOf(Command command) => command.Parents.FirstOrDefault() is Command above and not RootCommand
        ? $"{PathOf(above)} {command.Name}"
        : command.Name;

    private static string Words(Command command) =>
        string.Join(' ', command.Arguments.Select(Written).Prepend(command.Name));

    private static string Written(Argument argument) =>
        argument.Arity.MinimumNumberOfValues == 0 ? $"[{argument.Name}]" : argument.Name;

    private static string Written(Option option) =>
        string.Join(", ", option.Aliases.Prepend(option.Name)) + (option.HelpName is { } value ? $" {value}" : "");
}
