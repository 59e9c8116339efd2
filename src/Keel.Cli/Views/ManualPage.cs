using System.CommandLine;
using System.Text;

namespace Keel.Cli.Views;

/// <summary>Writes a command's manual page in the language of man(7).</summary>
internal sealed class ManualPage(RootCommand root)
{
    private readonly StringBuilder page = new();

    public string Of(Command command)
    {
        var name = command is RootCommand ? "keel" : $"keel-{command.Name}";
        page.Append($".TH {name.ToUpperInvariant()} 1\n.SH NAME\n{name} \\- {Escape(command.Description)}\n");
        page.Append(".SH SYNOPSIS\n");
        Synopsis(command, command is RootCommand ? "keel" : $"keel {command.Name}");
        if (command.Subcommands.Count > 0) Commands(command);
        if (command.Arguments.Count > 0) Arguments(command);
        Options("OPTIONS", command.Options.Where(option => command is not RootCommand || option.Recursive));
        if (command is not RootCommand) Options("COMMON OPTIONS", root.Options.Where(option => option.Recursive));
        ExitCodes();
        return page.ToString();
    }

    private void Synopsis(Command command, string path)
    {
        var arguments = string.Join(' ', command.Arguments.Select(Written));
        if (command.Action is not null) page.Append($".B {path}\n{Escape($"{arguments} [OPTIONS]".Trim())}\n.br\n");
        foreach (var inner in command.Subcommands.Where(_ => command is not RootCommand)) Synopsis(inner, $"{path} {inner.Name}");
        if (command is RootCommand) page.Append(".B keel\nCOMMAND [OPTIONS]\n");
    }

    private void Commands(Command command)
    {
        page.Append(".SH COMMANDS\n");
        foreach (var inner in command.Subcommands)
        {
            var words = string.Join(' ', inner.Arguments.Select(Written).Prepend(inner.Name));
            page.Append($".TP\n.B {Escape(words)}\n{Escape(inner.Description)}\n");
            if (command is RootCommand) continue;
            foreach (var option in inner.Options.Where(option => !option.Hidden && option.Name != "--help"))
                page.Append($".RS\n.TP\n.B {Escape(Written(option))}\n{Escape(option.Description)}\n.RE\n");
        }
    }

    private void Arguments(Command command)
    {
        page.Append(".SH ARGUMENTS\n");
        foreach (var argument in command.Arguments)
            page.Append($".TP\n.B {Escape(argument.Name)}\n{Escape(argument.Description)}\n");
    }

    private void Options(string heading, IEnumerable<Option> options)
    {
        var shown = options.Where(option => !option.Hidden && option.Name is not ("--help" or "--version")).ToList();
        if (shown.Count == 0) return;
        page.Append($".SH {heading}\n");
        foreach (var option in shown) page.Append($".TP\n.B {Escape(Written(option))}\n{Escape(option.Description)}\n");
    }

    private void ExitCodes() => page.Append("""
        .SH EXIT STATUS
        .TP
        .B 0
        done, and the chain is sound
        .TP
        .B 1
        findings remain
        .TP
        .B 2
        wrong usage
        .TP
        .B 3
        the disk or a file can't be read or written
        .TP
        .B 4
        refused for safety
        .TP
        .B 5
        stopped halfway: keel undo or keel logbook finish is needed

        """);

    private static string Written(Argument argument) =>
        argument.Arity.MinimumNumberOfValues == 0 && !argument.Name.Contains(' ', StringComparison.Ordinal)
            ? $"[{argument.Name}]"
            : argument.Name;

    private static string Written(Option option) =>
        string.Join(", ", option.Aliases.Prepend(option.Name)) + (option.HelpName is { } value ? $" {value}" : "");

    private static string Escape(string? text)
    {
        var safe = (text ?? "").Replace("\\", "\\e", StringComparison.Ordinal).Replace("-", "\\-", StringComparison.Ordinal);
        return safe.StartsWith('.') || safe.StartsWith('\'') ? $"\\&{safe}" : safe;
    }
}
