using System.Diagnostics;
using System.Text;

namespace Keel.Tests;

/// <summary>Starts a disk in QEMU with SeaBIOS, without changing it, and listens to its serial port.</summary>
internal static class Emulator
{
    private static readonly SemaphoreSlim Places = new(Environment.ProcessorCount);

    /// <summary>What came over the serial port until the stand-in spoke, an own line of boot code was seen, or the time was over.</summary>
    /// <param name="screenToSerial">Let SeaBIOS send its screen there too.</param>
    /// <param name="until">Ends the run early when it is seen.</param>
    public static async Task<string> Start(string disk, bool screenToSerial = false, string until = "serial ", double seconds = 6, params string[] more)
    {
        await Places.WaitAsync();
        try
        {
            string[] arguments =
            [
                "-machine", screenToSerial ? "pc,graphics=off" : "pc", "-accel", "tcg", "-m", "32", "-nodefaults", "-vga", "none", "-display", "none", "-no-reboot",
                "-drive", $"file={disk},format=raw,if=ide,snapshot=on", "-serial", "stdio", .. more
            ];
            using var process = Process.Start(new ProcessStartInfo("qemu-system-x86_64", arguments) { UseShellExecute = false, RedirectStandardInput = true, RedirectStandardOutput = true, RedirectStandardError = true })!;
            var text = new StringBuilder();
            var clock = Stopwatch.StartNew();
            var buffer = new char[256];
            while (clock.Elapsed.TotalSeconds < seconds)
            {
                using var patience = new CancellationTokenSource(TimeSpan.FromSeconds(Math.Max(0.05, seconds - clock.Elapsed.TotalSeconds)));
                int count;
                try
                {
                    count = await process.StandardOutput.ReadAsync(buffer.AsMemory(), patience.Token);
                }
                catch (OperationCanceledException)
                {
                    break;
                }

                if (count == 0) break;
                text.Append(buffer, 0, count);
                var seen = text.ToString();
                if (seen.IndexOf(until, StringComparison.Ordinal) is var at and >= 0 && seen.IndexOf('\n', at) >= 0) break;
            }

            process.Kill();
            await process.WaitForExitAsync();
            return text.ToString();
        }
        finally
        {
            Places.Release();
        }
    }

    /// <summary>Whether the stand-in boot manager was reached and found everything right.</summary>
    public static async Task<bool> Reaches(string disk, double seconds = 6) => (await Start(disk, seconds: seconds)).Contains("STAND-IN REACHED drive 80 serial ", StringComparison.Ordinal);
}
