using System.Diagnostics;
using System.Text.Json;
using Keel.Cli.Views.Json;
using Keel.Core.Errors;

namespace Keel.Cli.Rounds;

/// <summary>
/// A process that looks at one target after the other. Where an image makes it end, or takes too long, only that image is
/// lost, and the next one gets a new process.
/// </summary>
internal sealed class RoundProcess(RoundTerms terms) : IDisposable
{
    /// <summary>A process is exchanged after so many targets, so that nothing adds up.</summary>
    private const int MostTargets = 1000;

    private const int Attempts = 2;

    private Process? process;
    private int targets;

    /// <summary>
    /// Looks at a target. Where the process ends, it may have been another's fault (one that ended it between two targets, or
    /// memory that was short): a new one tries once more. A repair that was cut off is told then, and never gone over.
    /// </summary>
    public async Task<RoundLineDocument> Look(string target)
    {
        var why = "";
        for (var attempt = 0; attempt < Attempts; attempt++)
        {
            if (targets++ % MostTargets == 0) End();
            process ??= Start();
            try
            {
                if (await Ask(process, target) is { } entry) return entry;
                why = ".";
            }
            catch (OperationCanceledException)
            {
                Kill();
                var cutOff = terms.MendsSafely ? " If a repair was cut off by that, 'keel undo' takes it back." : "";
                return RoundWork.Problem(target, $"It took longer than {terms.Patience.TotalMinutes:0} minutes.{cutOff}");
            }
            catch (Exception e) when (e is IOException or JsonException)
            {
                why = $": {e.Message}";
            }

            Kill();
        }

        return RoundWork.Problem(target, $"The process that looked at it ended{why}");
    }

    private async Task<RoundLineDocument?> Ask(Process asked, string target)
    {
        await asked.StandardInput.WriteLineAsync(JsonSerializer.Serialize(target, KeelJsonLines.Default.String));
        await asked.StandardInput.FlushAsync();
        using var patience = new CancellationTokenSource(terms.Patience);
        return await asked.StandardOutput.ReadLineAsync(patience.Token) is { } line
            ? JsonSerializer.Deserialize(line, KeelJsonLines.Default.RoundLineDocument)
            : null;
    }

    public void Dispose() => End();

    private Process Start()
    {
        var start = new ProcessStartInfo(Environment.ProcessPath!)
        {
            UseShellExecute = false,
            RedirectStandardInput = true,
            RedirectStandardOutput = true
        };
        string[] words = ["round", "--as-worker", "--mend", terms.MendsSafely ? "safe" : "none"];
        foreach (var word in words) start.ArgumentList.Add(word);
        if (terms.Logbook is not null)
        {
            start.ArgumentList.Add("--logbook");
            start.ArgumentList.Add(terms.Logbook);
        }

        if (terms.Keys is not null)
        {
            start.ArgumentList.Add("--keys");
            start.ArgumentList.Add(terms.Keys);
        }

        return Process.Start(start) ?? throw new UnreadableException(
            "The round can't be done.",
            "The system starts no process for it.",
            "Free some memory, and run the same command again.");
    }

    /// <summary>The process ends by itself when no more paths come: it may be writing.</summary>
    private void End()
    {
        if (process is null) return;
        process.StandardInput.Close();
        process.WaitForExit();
        process.Dispose();
        process = null;
    }

    private void Kill()
    {
        if (process is null) return;
        process.Kill();
        process.WaitForExit();
        process.Dispose();
        process = null;
    }
}
