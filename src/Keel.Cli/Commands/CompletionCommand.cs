using System.CommandLine;
using Keel.Cli.Terminal;

namespace Keel.Cli.Commands;

/// <summary>keel completion bash | zsh | fish: a script that lets the shell complete what is typed.</summary>
/// <remarks>
/// The scripts ask keel itself, with the words so far. Its answer can hold anything that stands on a disk, so no script ever lets
/// its shell read it as a piece of a command: words come apart at zero bytes, and are quoted by the shell; for bash, whose own
/// quoting is made for the names of files and leaves "$" and ")" alone, by keel.
/// </remarks>
internal static class CompletionCommand
{
    private const string Asking = "[words]", AskingAsTyped = "[words:line]", AskingBare = "[words:bare]";

    private const string Bash = """
        # keel: completion for bash. In ~/.bashrc: eval "$(keel completion bash)"
        _keel() {
            local word=${COMP_WORDS[COMP_CWORD]} name takes
            mapfile -d '' -t COMPREPLY < <(keel '[words:line]' "${COMP_LINE:0:COMP_POINT}" "$word" 2>/dev/null)
            takes=${COMPREPLY[0]}
            COMPREPLY=("${COMPREPLY[@]:1}")
            if [ "$takes" != files ]; then
                compopt +o default +o filenames
            elif [ ${#COMPREPLY[@]} -gt 0 ]; then
                while IFS= read -r name; do COMPREPLY+=("$name"); done < <(compgen -f -- "$word")
            fi
        }
        complete -o default -o filenames -F _keel keel
        """;

    private const string Zsh = """
        #compdef keel
        # keel: completion for zsh. In ~/.zshrc: eval "$(keel completion zsh)"
        _keel() {
            local -a found
            found=("${(@0)$(keel '[words]' "${(@Q)words[2,CURRENT-1]}" "${(Q)PREFIX}" 2>/dev/null)}")
            compadd -a -- 'found[2,-2]'
            if [[ $found[1] = files ]]; then _files; fi
        }
        if [[ $funcstack[1] = _keel ]]; then
            _keel "$@"
        else
            if ! whence compdef >/dev/null; then autoload -Uz compinit && compinit; fi
            compdef _keel keel
        fi
        """;

    private const string Fish = """
        # keel: completion for fish. In ~/.config/fish/config.fish: keel completion fish | source
        function __keel_ask
            set -l before (commandline -opc)
            while set -q before[1]; and not string match -qr '(^|/)keel$' -- $before[1]
                set -e before[1]
            end
            set -l begun (commandline -ct | string collect)
            keel $argv[1] $before[2..] "$begun" 2>/dev/null
        end
        function __keel_takes_files
            set -l answer (__keel_ask '[words]' | string split0)
            test "$answer[1]" = files
        end
        complete -c keel -e
        complete -c keel -n __keel_takes_files -F
        complete -c keel -n 'not __keel_takes_files' -f
        complete -c keel -a "(__keel_ask '[words:bare]' | string split0)"
        function __keel_is_behind
            string match -qr '(^|/)keel$' -- (commandline -opc)
        end
        for front in sudo doas
            complete -c $front -n __keel_is_behind -a "(__keel_ask '[words:bare]' | string split0)"
        end
        """;

    public static Command Create(CommonOptions common)
    {
        var shell = new Argument<string>("SHELL") { Description = "bash, zsh or fish" };
        shell.TakesOneOf("bash", "zsh", "fish");
        var command = new Command("completion", "A script that lets the shell complete commands, options, files and entries.")
        {
            shell
        };
        command.SetAction(parsed =>
        {
            Console.Out.WriteLine(parsed.GetValue(shell) switch { "bash" => Bash, "zsh" => Zsh, _ => Fish });
            return 0;
        });
        return command;
    }

    /// <summary>Whether a script asks what fits next.</summary>
    public static bool IsAsked(string[] arguments) => arguments is [Asking or AskingAsTyped or AskingBare, ..];

    /// <summary>
    /// Answers a script: "files" or "words", as the name of a file fits or not (where that is wanted), then each word that fits,
    /// with a zero byte behind each.
    /// </summary>
    public static void Answer(CommonOptions common, string[] arguments)
    {
        var suggestions = new Suggestions(new CommandTree(common));
        if (arguments is [AskingAsTyped, var line, .. var rest])
        {
            AnswerLine(suggestions, ShellLine.Read(line), rest is [var piece, ..] ? piece : "");
            return;
        }

        var isBare = arguments[0] == AskingBare;
        var found = arguments.Length > 1 ? suggestions.For(arguments[1..^1], arguments[^1]) : SuggestedWords.None;
        if (!isBare) Print(found.TakesFiles ? "files" : "words");
        foreach (var word in found.Words)
        {
            if (!isBare || !word.Contains('\t')) Print(word);           // fish takes what is behind a tab for a description
        }
    }

    /// <summary>
    /// What fits at the end of a line as it was typed, quoted. The shell may take only the end of a word for the word, behind a
    /// colon or a quote; the rest of it is cut off what is offered.
    /// </summary>
    private static void AnswerLine(Suggestions suggestions, ShellLine line, string piece)
    {
        var found = suggestions.For([.. line.Words.Skip(1)], line.Begun);
        var isPiece = piece.Length > 0 && line.BegunAsTyped.EndsWith(piece, StringComparison.Ordinal);
        var before = line.OpenQuoteAt ?? (isPiece ? line.BegunAsTyped.Length - piece.Length : 0);
        var cut = ShellLine.Unquoted(line.BegunAsTyped[..before]).Length;
        Print(found.TakesFiles ? "files" : "words");
        foreach (var word in found.Words.Where(word => word.StartsWith(line.Begun, StringComparison.Ordinal)))
            Print(ShellLine.Quoted(word[cut..], line.OpenQuote));
    }

    private static void Print(string word)
    {
        if (!word.Contains('\0')) Console.Out.Write($"{word}\0");
    }
}
