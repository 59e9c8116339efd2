using System.Text;
using System.Text.Json;
using Keel.Cli.Views.Json;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Microsoft.Win32.SafeHandles;

namespace Keel.Cli.Rounds;

/// <summary>
/// The file of a round: a line of JSON for each target, written when it is done, so that a round that was stopped goes on.
/// </summary>
internal sealed class RoundLedger : IDisposable
{
    /// <summary>How the names of such files end.</summary>
    public const string Ending = ".jsonl";

    private const int LongestLine = 1 << 20;

    private static ReadOnlySpan<byte> LineStart => "{\"target\":"u8;

    private readonly FileStream file;
    private readonly HashSet<string> done = new(StringComparer.Ordinal);

    /// <summary>Opens the file, made where there is none; a line that was cut off at its end is taken away.</summary>
    /// <exception cref="UnreadableException">It can't be written, or another round is writing it.</exception>
    /// <exception cref="RefusedException">It is a file of something else.</exception>
    public RoundLedger(string path)
    {
        Path = path;
        try
        {
            Directory.CreateDirectory(System.IO.Path.GetDirectoryName(path)!);
            if (!Exists(path)) HostFile.CreateNew(path).Dispose();
            file = new FileStream(path, FileMode.Open, FileAccess.ReadWrite, FileShare.None);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnreadableException(
                $"{path} can't be written.",
                $"The system says: {e.Message}",
                "Name a folder that can be written with --out, in which no other round is running.",
                e);
        }

        try
        {
            GoOn();
        }
        catch
        {
            file.Dispose();
            throw;
        }
    }

    /// <summary>Whether it is there; what is there must be an ordinary file, and no link.</summary>
    private static bool Exists(string path)
    {
        try
        {
            HostFile.Open(path, followLink: false).Dispose();
            return true;
        }
        catch (FileNotFoundException)
        {
            return false;
        }
    }

    public string Path { get; }

    /// <summary>How many targets of each verdict are in it.</summary>
    public Dictionary<string, int> Verdicts { get; } = [];

    /// <summary>How many targets are done.</summary>
    public int Count => done.Count;

    /// <summary>Whether a target is done already.</summary>
    public bool Has(string target) => done.Contains(target);

    /// <summary>Adds a line; when this returns, a stop of the process does not lose it.</summary>
    /// <exception cref="UnreadableException">It can't be written.</exception>
    public void Add(RoundLineDocument entry)
    {
        try
        {
            file.Write(JsonSerializer.SerializeToUtf8Bytes(entry, KeelJsonLines.Default.RoundLineDocument));
            file.WriteByte((byte)'\n');
            file.Flush();
        }
        catch (IOException e)
        {
            throw new UnreadableException(
                $"{Path} can't be written.",
                $"The system says: {e.Message}",
                "Make room for it, and run the same command again: it goes on.",
                e);
        }

        done.Add(entry.Target);
        Tally(entry);
    }

    public void Dispose() => file.Dispose();

    /// <summary>The lines of such a file, as far as they are whole.</summary>
    public static IEnumerable<RoundLineDocument> Read(string path)
    {
        using var file = new FileStream(Opened(path), FileAccess.Read);
        foreach (var (line, _) in Lines(file))
        {
            if (Parse(line) is { } entry) yield return entry;
        }
    }

    private static SafeFileHandle Opened(string path)
    {
        try
        {
            return HostFile.Open(path);
        }
        catch (IOException e)
        {
            throw new UnreadableException(
                $"The round in {path} can't be read.",
                $"The system says: {e.Message}.",
                "Name the folder that was given to 'keel round' with --out.",
                e);
        }
    }

    /// <summary>Reads what is done, and goes to the end; only a line that keel itself began is cut off.</summary>
    private void GoOn()
    {
        var whole = 0L;
        foreach (var (line, end) in Lines(file))
        {
            if (Parse(line) is not { } entry) throw OfSomethingElse();
            done.Add(entry.Target);
            Tally(entry);
            whole = end;
        }

        var tail = new byte[Math.Min(LineStart.Length, file.Length - whole)];
        file.Position = whole;
        file.ReadExactly(tail);
        if (!LineStart.StartsWith(tail)) throw OfSomethingElse();
        file.SetLength(whole);
        file.Position = whole;
    }

    private RefusedException OfSomethingElse() => new(
        $"{Path} is no file of a round.",
        "A line of it is none that a round writes, and nothing of it was touched.",
        "Name another folder with --out.");

    private void Tally(RoundLineDocument entry) =>
        Verdicts[entry.Verdict] = Verdicts.GetValueOrDefault(entry.Verdict) + 1;

    private static RoundLineDocument? Parse(string line)
    {
        try
        {
            var entry = JsonSerializer.Deserialize(line, KeelJsonLines.Default.RoundLineDocument);
            return entry is { Target: not null, Verdict: not null } ? entry : null;
        }
        catch (JsonException)
        {
            return null;
        }
    }

    /// <summary>Whole lines, each with where it ends; one that is absurdly long ends them.</summary>
    private static IEnumerable<(string Line, long End)> Lines(FileStream file)
    {
        var line = new List<byte>();
        var piece = new byte[1 << 16];
        var at = 0L;
        for (int count; (count = file.Read(piece)) > 0;)
        {
            for (var index = 0; index < count; index++, at++)
            {
                if (piece[index] != (byte)'\n')
                {
                    line.Add(piece[index]);
                    if (line.Count > LongestLine) yield break;
                    continue;
                }

                yield return (Encoding.UTF8.GetString([.. line]), at + 1);
                line.Clear();
            }
        }
    }
}
