using System.Diagnostics;
using Keel.Cli.Wording;

namespace Keel.Cli.Terminal;

/// <summary>
/// How far a long copy has come, on a terminal and after a second only: a bar, the speed, and how long it will take.
/// </summary>
internal sealed class ByteProgress(string verb, int width)
{
    private const int BarPlaces = 20;
    private static readonly TimeSpan Pause = TimeSpan.FromMilliseconds(200);
    private readonly Stopwatch clock = Stopwatch.StartNew();
    private TimeSpan shown = TimeSpan.FromSeconds(1) - Pause;

    /// <summary>Tells how many bytes of how many are through.</summary>
    public void Tell(long done, long all)
    {
        if (!Output.CanOverwrite) return;
        if (done >= all)
        {
            if (clock.Elapsed > TimeSpan.FromSeconds(1)) Console.Error.Write($"\r{new string(' ', width - 1)}\r");
            return;
        }

        if (clock.Elapsed - shown < Pause) return;
        shown = clock.Elapsed;
        var line = Line(done, all, clock.Elapsed);
        Console.Error.Write($"\r{(line.Length < width ? line.PadRight(width - 1) : line[..(width - 1)])}");
    }

    private string Line(long done, long all, TimeSpan elapsed)
    {
        var full = (int)(BarPlaces * done / all);
        var speed = done / elapsed.TotalSeconds;
        var left = TimeSpan.FromSeconds((all - done) / Math.Max(1, speed));
        return $"{verb} [{new string('#', full)}{new string('.', BarPlaces - full)}] {100 * done / all} % of {Sizes.Text(all)}, "
            + $"{Sizes.Text((long)speed)}/s, {left:mm\\:ss} left";
    }
}
