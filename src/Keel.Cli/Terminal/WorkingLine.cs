namespace Keel.Cli.Terminal;

/// <summary>
/// Says on the terminal what is being done, and for how long by now, from the second second on; one line that is written over,
/// and gone at the end.
/// </summary>
internal sealed class WorkingLine : IDisposable
{
    private static readonly TimeSpan Second = TimeSpan.FromSeconds(1);
    private readonly Lock turn = new();
    private readonly string what;
    private readonly int width;
    private readonly Timer timer;
    private int seconds;
    private bool isOver, isPaused;

    public WorkingLine(string what, int width)
    {
        this.what = what;
        this.width = width;
        timer = new Timer(_ => Show(), state: null, Second, Second);
    }

    public void Dispose()
    {
        timer.Dispose();
        lock (turn)
        {
            isOver = true;
            Clear();
        }
    }

    /// <summary>While somebody is asked nothing is being done: neither shown nor counted.</summary>
    public void Pause()
    {
        lock (turn)
        {
            isPaused = true;
            Clear();
        }
    }

    /// <summary>Goes on behind an answer.</summary>
    public void GoOn()
    {
        lock (turn) isPaused = false;
    }

    private void Clear()
    {
        if (seconds > 0) Console.Error.Write($"\r{new string(' ', width - 1)}\r");
    }

    private void Show()
    {
        lock (turn)
        {
            if (isOver || isPaused) return;
            seconds++;
            var line = $"keel is {what}: {seconds} s";
            Console.Error.Write($"\r{(line.Length < width ? line : line[..(width - 1)])}");
        }
    }
}
