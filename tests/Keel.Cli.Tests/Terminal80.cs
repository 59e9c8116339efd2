using System.Text.RegularExpressions;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>
/// A terminal of 80 columns and 25 lines, with a shell in a folder of a test; tmux keeps it, and tells what stands on it.
/// </summary>
internal sealed partial class Terminal80 : IAsyncDisposable
{
    private const string Prompt = "ready>";
    private readonly string socket;

    private Terminal80(string socket) => this.socket = socket;

    /// <summary>Opens one; "keel" there is the program under test, with a logbook of the test's own.</summary>
    /// <param name="scratch">The test's folder.</param>
    /// <param name="shell">The shell: bash, zsh or fish, none of which reads anybody's settings.</param>
    public static async Task<Terminal80> Open(Scratch scratch, string shell = "bash")
    {
        var terminal = new Terminal80(scratch["tmux"]);
        Directory.CreateDirectory(scratch["bin"]);
        File.CreateSymbolicLink(scratch["bin/keel"], KeelProgram.Path);
        var begin = $"cd {scratch.Folder}; export PATH={scratch["bin"]}:$PATH XDG_STATE_HOME={scratch["state"]} TERM=linux "
            + Prompts(shell, scratch);
        await terminal.Tmux("-f", "/dev/null", "new-session", "-d", "-x", "80", "-y", "25", "-s", "keel", begin);
        await terminal.Until(screen => NumberOf(screen) is not null);
        return terminal;
    }

    /// <summary>What lets a shell number its prompts, and starts it.</summary>
    private static string Prompts(string shell, Scratch scratch) => shell switch
    {
        "zsh" => $"PS1='%h {Prompt} '; exec zsh -f",
        "fish" => $"HOME={scratch.Folder}; exec fish --init-command "
            + $"'function fish_prompt; set -g n (math $n + 1); echo -n \"$n {Prompt} \"; end'",
        _ => $"PS1='\\# {Prompt} '; exec bash --norc --noprofile"
    };

    /// <summary>Types keys: what tmux calls them, or text.</summary>
    public Task Type(params string[] keys) => Tmux(["send-keys", "-t", "keel", .. keys]);

    /// <summary>Types a command, and gives the screen when the next prompt comes: prompts are numbered.</summary>
    public async Task<string> Run(string command)
    {
        var before = NumberOf(await Until(screen => NumberOf(screen) is not null));
        await Type("-l", "clear; " + command);
        await Type("Enter");
        return await Until(screen => NumberOf(screen) is { } number && number != before);
    }

    /// <summary>The screen, as soon as something can be said of it.</summary>
    public async Task<string> Until(Func<string, bool> isThere)
    {
        var screen = "";
        for (var tries = 0; tries < 300; tries++)
        {
            screen = await Tmux("capture-pane", "-p", "-t", "keel");
            if (isThere(screen)) return screen;
            await Task.Delay(50, TestContext.Current.CancellationToken);
        }

        throw new TimeoutException($"The screen never came to that. It shows:\n{screen}");
    }

    /// <summary>The number of the prompt that the screen ends with; null where something runs.</summary>
    private static string? NumberOf(string screen) => Ready().Match(screen.TrimEnd()) is { Success: true } found
        ? found.Groups["number"].Value
        : null;

    /// <summary>Ends it, and waits for its shell to have gone: some write a file at their end.</summary>
    public async ValueTask DisposeAsync()
    {
        var shell = (await Tmux("display-message", "-p", "-t", "keel", "#{pane_pid}")).Trim();
        await Tmux("kill-server");
        for (var tries = 0; tries < 100 && shell.Length > 0 && Directory.Exists($"/proc/{shell}"); tries++) await Task.Delay(20);
    }

    private async Task<string> Tmux(params string[] arguments) => (await Tool.Run("tmux", ["-S", socket, .. arguments])).Output;

    [GeneratedRegex(@"(?<number>\d+) ready>$")]
    private static partial Regex Ready();
}
