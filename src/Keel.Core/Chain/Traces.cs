using System.Text;
using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Volumes;

namespace Keel.Core.Chain;

/// <summary>Reads the traces that Windows leaves of its starts and repairs.</summary>
public static class Traces
{
    private const int TextLimitBytes = 256 * 1024, LineLimit = 120;

    /// <summary>The traces of the Windows that is started, the newest first; none where it can't be reached.</summary>
    public static IReadOnlyList<Trace> Of(Machine machine)
    {
        if (StartedWindows.Of(machine).Windows is not { } windows) return [];
        Func<StartedWindows, Trace?>[] readers = [BootStatus, StartRepair, StartLog, PendingServicing];
        return [.. readers.Select(read => Try(read, windows)).OfType<Trace>().OrderByDescending(trace => trace.Written)];
    }

    private static Trace? Try(Func<StartedWindows, Trace?> read, StartedWindows windows)
    {
        try
        {
            return read(windows);
        }
        catch (KeelException)
        {
            return null;
        }
    }

    /// <summary>The boot status record: whether the last start and the last shutdown came to their end.</summary>
    private static Trace? BootStatus(StartedWindows windows)
    {
        const int startedAt = 10, shutDownAt = 11, needed = 12;
        var path = $@"{windows.Folder}\bootstat.dat";
        if (windows.Files.Find(path) is not { SizeBytes: >= needed }) return null;
        var bytes = windows.Files.OpenFile(path).ReadBytes(0, needed);
        return At(
            windows,
            path,
            Remark.Of("trace.boot-status", Fact.IsStarted.Is(bytes[startedAt] != 0), Fact.IsShutDown.Is(bytes[shutDownAt] != 0)));
    }

    /// <summary>The newest text that Windows' own start-up repair left in its folder.</summary>
    private static Trace? StartRepair(StartedWindows windows)
    {
        var folder = $@"{windows.System32}\LogFiles\Srt";
        var newest = windows.Files
            .List(folder)
            .Where(file => !file.IsFolder && file.Name.EndsWith(".txt", StringComparison.OrdinalIgnoreCase))
            .Select(file => $@"{folder}\{file.Name}").OrderByDescending(windows.Files.WrittenAt).FirstOrDefault();
        return newest is not null && TextOf(windows, newest) is { Count: > 0 } lines
            ? At(windows, newest, Remark.Of("trace.start-repair", Fact.Said.Is(lines[^1])))
            : null;
    }

    private static Trace? StartLog(StartedWindows windows)
    {
        var path = $@"{windows.Folder}\ntbtlog.txt";
        return TextOf(windows, path) is { Count: > 0 } lines
            ? At(windows, path, Remark.Of("trace.start-log", Fact.Said.Is(lines[^1])))
            : null;
    }

    private static Trace? PendingServicing(StartedWindows windows)
    {
        var path = $@"{windows.Folder}\WinSxS\pending.xml";
        return windows.Files.FileExists(path)
            ? At(windows, path, Remark.Of("trace.servicing-pending"))
            : null;
    }

    private static Trace At(StartedWindows windows, string path, Remark says) => new(path, windows.Files.WrittenAt(path), says);

    /// <summary>The lines of a text that are not empty, from its last part; UTF-16 where it begins so.</summary>
    private static List<string>? TextOf(StartedWindows windows, string path)
    {
        if (windows.Files.Find(path) is not { IsFolder: false, SizeBytes: > 0 } file) return null;
        var contents = windows.Files.OpenFile(path);
        var wide = contents
            .ReadBytes(0, (int)Math.Min(2, file.SizeBytes))
            .AsSpan()
            .SequenceEqual((ReadOnlySpan<byte>)[0xFF, 0xFE]);
        var start = Math.Max(0, file.SizeBytes - TextLimitBytes) & ~1L;
        var text = (wide
            ? Encoding.Unicode
            : Encoding.Latin1).GetString(contents.ReadBytes(start, (int)(file.SizeBytes - start)));
        return [.. text
            .Split('\n')
            .Select(line => line.Trim('\r', ' ', '\t', '\uFEFF', '\0'))
            .Where(line => line.Any(char.IsLetter))
            .Select(line => line.Length > LineLimit ? line[..LineLimit] : line)];
    }
}
