using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>
/// A terminal of 80 columns and 25 lines, with a shell in a folder of a test; tmux keeps it, and tells what stands on it.
/// </summary>
internal sealed class Terminal80 : IAsyncDisposable
{
    private const string Prompt = "ready>";
    private readonly string socket;

    private Terminal80(string socket) => this.socket = socket;

    /// <summary>Opens one; "keel" there is the program under test, with a logbook of the test's own.</summary>
    public static async Task<Terminal80> Open(Scratch scratch)
    {
        var terminal = new Terminal80(scratch["tmux"]);
        Directory.CreateDirectory(scratch["bin"]);
        File.CreateSymbolicLink(scratch["bin/keel"], KeelProgram.Path);
        var shell = $"cd {scratch.Folder}; export PATH={scratch["bin"]}:$PATH XDG_STATE_HOME={scratch["state"]} TERM=linux "
            + $"PS1='{Prompt} '; exec bash --norc --noprofile";
        await terminal.Tmux("-f", "/dev/null", "new-session", "-d", "-x", "80", "-y", "25", "-s", "keel", shell);
        await terminal.Until(screen => screen.TrimEnd().EndsWith(Prompt, StringComparison.Ordinal));
        return terminal;
    }

    /// <summary>Types keys: what tmux calls them, or text.</summary>
    public Task Type(params string[] keys) => Tmux(["send-keys", "-t", "keel", .. keys]);

    /// <summary>Types a command, and gives the screen when the prompt comes again.</summary>
    public async Task<string> Run(string command)
    {
        await Type("-l", "clear; " + command);
        await Type("Enter");
        return await Until(screen =>
            screen.TrimEnd().EndsWith(Prompt, StringComparison.Ordinal) && !screen.Contains("clear; ", StringComparison.Ordinal));
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

    public async ValueTask DisposeAsync() => await Tmux("kill-server");

    private async Task<string> Tmux(params string[] arguments) => (await Tool.Run("tmux", ["-S", socket, .. arguments])).Output;
}
