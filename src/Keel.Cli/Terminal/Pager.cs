using System.Diagnostics;
using Keel.Core.Errors;

namespace Keel.Cli.Terminal;

/// <summary>
/// Shows what is printed page by page, with the program that PAGER names; only where that was asked for, at a terminal.
/// </summary>
internal sealed class Pager : IDisposable
{
    private const string Usual = "less -R";
    private readonly Process process;

    private Pager(Process process) => this.process = process;

    /// <summary>Starts it, and lets it have what is printed from now on.</summary>
    /// <exception cref="WrongUsageException">There is no such program.</exception>
    public static Pager Start(GuardedOutput output)
    {
        var program = Environment.GetEnvironmentVariable("PAGER") is { Length: > 0 } named ? named : Usual;
        var start = new ProcessStartInfo("/bin/sh") { RedirectStandardInput = true, UseShellExecute = false };
        start.ArgumentList.Add("-c");
        start.ArgumentList.Add(program);
        try
        {
            var pager = new Pager(Process.Start(start)!);
            output.Divert(pager.process.StandardInput);
            return pager;
        }
        catch (Exception e) when (e is System.ComponentModel.Win32Exception or InvalidOperationException)
        {
            throw new WrongUsageException($"{program} can't be started.", e.Message, "Leave --pager out, or set PAGER.");
        }
    }

    /// <summary>Ends the pages, and waits until they were read.</summary>
    public void Dispose()
    {
        try
        {
            process.StandardInput.Close();
        }
        catch (IOException)
        {
            // It was left before the end.
        }

        process.WaitForExit();
        process.Dispose();
    }
}
