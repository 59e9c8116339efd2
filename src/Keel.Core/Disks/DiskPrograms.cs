using System.Diagnostics;
using Keel.Core.Errors;

namespace Keel.Core.Disks;

/// <summary>The programs of the running system that ask a disk for its health, and that image a failing one.</summary>
public static class DiskPrograms
{
    private const int MostLetters = 4 * 1024 * 1024;
    private static readonly TimeSpan Patience = TimeSpan.FromSeconds(60);

    /// <summary>Asks a disk, through smartctl.</summary>
    /// <param name="device">The full path of the device.</param>
    /// <exception cref="UnreadableException">The program is not installed, or gives no answer.</exception>
    public static DiskHealth Ask(string device)
    {
        var start = new ProcessStartInfo(Require("smartctl", "smartmontools"), ["--json=c", "--all", device])
        {
            UseShellExecute = false,
            RedirectStandardOutput = true,
            RedirectStandardError = true,
            RedirectStandardInput = true
        };
        using var process = Process.Start(start)!;
        process.StandardInput.Close();
        _ = process.StandardError.ReadToEndAsync();
        var said = process.StandardOutput.ReadToEndAsync();
        if (!process.WaitForExit(Patience) || !said.Wait(Patience))
        {
            process.Kill(entireProcessTree: true);
            throw NoAnswer(device, $"It did not answer within {Patience.TotalSeconds:0} seconds.");
        }

        return said.Result.Length <= MostLetters && DiskHealth.TryRead(said.Result) is { } health
            ? health
            : throw NoAnswer(device, "smartctl gave no answer that is known here.");
    }

    /// <summary>
    /// Images a disk through ddrescue, which shows its progress itself, and goes on where its map says that it stopped.
    /// </summary>
    /// <param name="device">The full path of the disk.</param>
    /// <param name="image">The image; its map is beside it.</param>
    /// <param name="quiet">Whether the program is not to show its progress.</param>
    /// <returns>Whether the program ended well.</returns>
    /// <exception cref="UnreadableException">The program is not installed.</exception>
    public static bool Image(string device, string image, bool quiet)
    {
        string[] silent = quiet ? ["--quiet"] : [];
        string[] direct = DiskPath.IsBlockDevice(device) ? ["--idirect"] : [];
        var start = new ProcessStartInfo(
            Require("ddrescue", "gddrescue"),
            [.. silent, .. direct, "--sparse", "--retry-passes=1", "--", device, image, image + MapFile.Ending])
        {
            UseShellExecute = false
        };
        using var process = Process.Start(start)!;
        process.WaitForExit();
        return process.ExitCode == 0;
    }

    private static string Require(string program, string package) => HostPrograms.Find(program)
        ?? throw new UnreadableException(
            $"The program {program} is not installed.",
            "keel asks the disk, and images it, through programs of the system.",
            $"Install it (on Debian: apt install {package}) and run the same command again.");

    private static UnreadableException NoAnswer(string device, string why) => new(
        $"{device} can't be asked for its health.",
        why,
        "Some adapters do not pass the question on: connect the disk directly, or run keel as root.");
}
