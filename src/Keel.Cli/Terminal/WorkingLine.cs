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
    private bool isOver;

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
            if (seconds > 0) Console.Error.Write($"\r{new string(' ', width - 1)}\r");
        }
    }

    private void Show()
    {
        lock (turn)
        {
            if (isOver) return;
            seconds++;
            var line = $"keel is {what}: {seconds} s";
            Console.Error.Write($"\r{(line.Length < width ? line : line[..(width - 1)])}");
        }
    }
}
