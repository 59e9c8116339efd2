using System.Diagnostics;

namespace Keel.Tests;

/// <summary>Starts a disk in Bochs with its own BIOS, without changing it, and reads what came over its serial port.</summary>
internal static class Bochs
{
    /// <summary>What the serial port got until the stand-in spoke or the time was over.</summary>
    /// <param name="folder">A folder for its files.</param>
    public static async Task<string> Start(string disk, string folder, double seconds = 60)
    {
        var serial = Path.Combine(folder, "bochs-serial");
        var settings = Path.Combine(folder, "bochs-settings");
        var commands = Path.Combine(folder, "bochs-commands");
        File.Delete(serial);
        await File.WriteAllTextAsync(commands, "c\n");
        await File.WriteAllTextAsync(
            settings,
            $"""
            display_library: term
            romimage: file=/usr/share/bochs/BIOS-bochs-latest
            vgaromimage: file=/usr/share/bochs/VGABIOS-lgpl-latest
            megs: 32
            boot: disk
            ata0: enabled=1
            ata0-master: type=disk, path={disk}, mode=volatile
            com1: enabled=1, mode=file, dev={serial}
            log: {Path.Combine(folder, "bochs-log")}
            """);

        // Its screen wants a terminal; its debugger, where it has one, is told to go on.
        using var process = Process.Start(
            new ProcessStartInfo("script", ["-qec", $"exec bochs -q -f {settings} -rc {commands}", "/dev/null"])
            {
                UseShellExecute = false,
                RedirectStandardInput = true,
                RedirectStandardOutput = true,
                RedirectStandardError = true,
                Environment = { ["TERM"] = "xterm" }
            })!;
        process.OutputDataReceived += (_, _) => { };
        process.BeginOutputReadLine();
        var clock = Stopwatch.StartNew();
        while (clock.Elapsed.TotalSeconds < seconds && !process.HasExited)
        {
            await Task.Delay(100);
            if (File.Exists(serial) && (await File.ReadAllTextAsync(serial)).Contains("serial ", StringComparison.Ordinal)) break;
        }

        await Task.Delay(200);
        process.Kill(entireProcessTree: true);
        await process.WaitForExitAsync();
        return File.Exists(serial) ? await File.ReadAllTextAsync(serial) : "";
    }
}
