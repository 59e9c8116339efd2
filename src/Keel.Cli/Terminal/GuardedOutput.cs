using System.Text;

namespace Keel.Cli.Terminal;

/// <summary>
/// Standard output that tells a failure of its own from every other: a full device must not look like a failing disk.
/// </summary>
internal sealed class GuardedOutput(TextWriter inner) : TextWriter
{
    private TextWriter inner = inner;
    private bool isDiverted;

    /// <summary>Whether anything was printed.</summary>
    public bool HasWritten { get; private set; }

    /// <summary>Prints elsewhere from now on.</summary>
    public void Divert(TextWriter other) => (inner, isDiverted) = (other, true);

    public override Encoding Encoding => inner.Encoding;

    public override void Write(char value) => Guard(() => inner.Write(value));

    public override void Write(char[] buffer, int index, int count) => Guard(() => inner.Write(buffer, index, count));

    public override void Write(string? value) => Guard(() => inner.Write(value));

    public override void WriteLine(string? value) => Guard(() => inner.WriteLine(value));

    public override void Flush()
    {
        try
        {
            inner.Flush();
        }
        catch (IOException e)
        {
            throw new OutputFailedException(e);
        }
    }

    private void Guard(Action write)
    {
        HasWritten = true;
        try
        {
            write();
        }
        catch (IOException) when (isDiverted)
        {
            // A pager that was left before the end has shown enough.
        }
        catch (IOException e)
        {
            throw new OutputFailedException(e);
        }
    }
}
