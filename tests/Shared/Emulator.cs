using System.Diagnostics;
using System.Text;

namespace Keel.Tests;

/// <summary>Starts a disk in QEMU with SeaBIOS or OVMF, without changing it, and listens to its serial port.</summary>
internal static class Emulator
{
    private static readonly SemaphoreSlim Places = new(Environment.ProcessorCount);

    /// <summary>
    /// What came over the serial port until the stand-in spoke, an own line of boot code was seen, or the time was over.
    /// </summary>
    /// <param name="screenToSerial">Let SeaBIOS send its screen there too.</param>
    /// <param name="format">What QEMU calls the format of the image.</param>
    /// <param name="until">Ends the run early when it is seen.</param>
    public static Task<string> Start(
        string disk,
        bool screenToSerial = false,
        string until = "serial ",
        double seconds = 6,
        string format = "raw",
        params string[] more) =>
        Run(
            [
                "-machine",
                screenToSerial ? "pc,graphics=off" : "pc",
                "-m",
                "32",
                "-drive",
                $"file={disk},format={format},if=ide,snapshot=on",
                .. more
            ],
            [until],
            seconds);

    /// <summary>Starts a disk with OVMF, and gives what the stand-in said; empty where it was not reached.</summary>
    /// <param name="flash">The flash image with the variables; OVMF writes into it.</param>
    public static async Task<string> StartUefi(string disk, string flash, double seconds = 90)
    {
        const string beginning = "STAND-IN REACHED";
        var output = await Run(
            [
                "-machine",
                "pc",
                "-m",
                "128",
                "-drive",
                "if=pflash,format=raw,unit=0,readonly=on,file=/usr/share/OVMF/OVMF_CODE.fd",
                "-drive",
                $"if=pflash,format=raw,unit=1,file={flash}",
                "-drive", $"file={disk},format=raw,if=ide,snapshot=on"
            ],
            [beginning, "EFI Internal Shell"],
            seconds);
        return output.IndexOf(beginning, StringComparison.Ordinal) is var at and >= 0 ? output[at..].Split('\n')[0].Trim() : "";
    }

    private static async Task<string> Run(string[] own, string[] until, double seconds)
    {
        await Places.WaitAsync();
        try
        {
            string[] arguments = [
                "-accel",
                "tcg",
                "-nodefaults",
                "-vga",
                "none",
                "-display",
                "none",
                "-no-reboot",
                "-serial",
                "stdio",
                .. own
            ];
            using var process = Process.Start(
                new ProcessStartInfo("qemu-system-x86_64", arguments)
                {
                    UseShellExecute = false,
                    RedirectStandardInput = true,
                    RedirectStandardOutput = true,
                    RedirectStandardError = true
                })!;
            var text = new StringBuilder();
            var clock = Stopwatch.StartNew();
            var buffer = new char[256];
            while (clock.Elapsed.TotalSeconds < seconds)
            {
                using var patience = new CancellationTokenSource(
                    TimeSpan.FromSeconds(Math.Max(0.05, seconds - clock.Elapsed.TotalSeconds)));
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
                if (until.Any(word =>
                    seen.IndexOf(word, StringComparison.Ordinal) is var at and >= 0 && seen.IndexOf('\n', at) >= 0))
                {
                    break;
                }
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
    public static async Task<bool> Reaches(string disk, double seconds = 30) =>
        (await Start(disk, seconds: seconds)).Contains("STAND-IN REACHED drive 80 serial ", StringComparison.Ordinal);
}
