using System.CommandLine;

namespace Keel.Cli.Commands;

/// <summary>keel completion bash | zsh | fish: a script that lets the shell complete what is typed.</summary>
/// <remarks>The scripts ask keel itself, with the words so far, and offer files besides.</remarks>
internal static class CompletionCommand
{
    private const string Bash = """
        # keel: completion for bash. In ~/.bashrc: eval "$(keel completion bash)"
        _keel() {
            local word=${COMP_WORDS[COMP_CWORD]} IFS=$'\n'
            COMPREPLY=($(compgen -W "$(keel "[suggest:$COMP_POINT]" "$COMP_LINE" 2>/dev/null)" -- "$word"))
            if [ "${word#-}" = "$word" ]; then COMPREPLY+=($(compgen -f -- "$word")); fi
        }
        complete -o filenames -F _keel keel
        """;

    private const string Zsh = """
        #compdef keel
        # keel: completion for zsh. In ~/.zshrc: eval "$(keel completion zsh)"
        _keel() {
            local -a found
            found=(${(f)"$(keel "[suggest:$CURSOR]" "$BUFFER" 2>/dev/null)"})
            compadd -a found
            _files
        }
        compdef _keel keel
        """;

    private const string Fish = """
        # keel: completion for fish. In ~/.config/fish/config.fish: keel completion fish | source
        function __keel_words
            set -l line (commandline -cp)
            keel "[suggest:"(string length -- "$line")"]" "$line" 2>/dev/null
        end
        complete -c keel -a '(__keel_words)'
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
}
