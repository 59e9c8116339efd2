using System.Globalization;
using System.Text;
using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Volumes;

namespace Keel.Core.History;

/// <summary>What stands in files of their own: the boot status record, and the logs of repairs, starts and servicing.</summary>
internal static class FileHistory
{
    private static readonly char[] Blanks = [' ', '\t', '\r', '\0'];
    private const int TextLimitBytes = 256 * 1024, LineLimit = 120;

    /// <summary>What is there; what can't be read is passed over.</summary>
    public static IEnumerable<HistoryItem> Read(HistoryPlace place)
    {
        Func<HistoryPlace, HistoryItem?>[] readers =
            [BootStatus, StartRepair, StartLog, PendingServicing, ServicingLog, SetupErrors, SetupRollback];
        return readers.Select(read => Try(read, place)).OfType<HistoryItem>();
    }

    /// <summary>The lines of a text that are not empty, from its last part; UTF-16 where it begins so.</summary>
    internal static List<string>? LinesOf(IVolume files, string path, int lineLimit = LineLimit)
    {
        if (files.Find(path) is not { IsFolder: false, SizeBytes: > 0 } file) return null;
        var contents = files.OpenFile(path);
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
            .Select(line => string.Join(' ', line.Trim('\uFEFF', '\0').Split(Blanks, StringSplitOptions.RemoveEmptyEntries)))
            .Where(line => line.Any(char.IsLetter))
            .Select(line => line.Length > lineLimit ? line[..lineLimit] : line)];
    }

    private static HistoryItem? Try(Func<HistoryPlace, HistoryItem?> read, HistoryPlace place)
    {
        try
        {
            return read(place);
        }
        catch (KeelException)
        {
            return null;
        }
    }

    /// <summary>The boot status record: whether the last start and the last shutdown came to their end.</summary>
    private static HistoryItem? BootStatus(HistoryPlace place)
    {
        const int startedAt = 10, shutDownAt = 11, needed = 12;
        var path = $@"{place.Folder}\bootstat.dat";
        if (place.Files.Find(path) is not { SizeBytes: >= needed }) return null;
        var bytes = place.Files.OpenFile(path).ReadBytes(0, needed);
        return place.ItemAt(
            path,
            HistoryKind.Log,
            Remark.Of("trace.boot-status", Fact.IsStarted.Is(bytes[startedAt] != 0), Fact.IsShutDown.Is(bytes[shutDownAt] != 0)));
    }

    /// <summary>The newest text that Windows' own start-up repair left in its folder.</summary>
    private static HistoryItem? StartRepair(HistoryPlace place)
    {
        var folder = $@"{place.System32}\LogFiles\Srt";
        var newest = place.Files
            .List(folder)
            .Where(file => !file.IsFolder && file.Name.EndsWith(".txt", StringComparison.OrdinalIgnoreCase))
            .Select(file => $@"{folder}\{file.Name}").OrderByDescending(place.Files.WrittenAt).FirstOrDefault();
        if (newest is null || LinesOf(place.Files, newest) is not { Count: > 0 } lines) return null;
        var stop = lines.Select(StopIn).LastOrDefault(code => code is not null);
        var tries = lines.Select(TriesIn).Max();
        KnownFact[] facts =
        [
            .. tries > 0 ? (KnownFact[])[Fact.Times.Is(tries.Value)] : [],
            .. stop is { } code ? (KnownFact[])[Fact.Stop.Is(StopCode.Text(code))] : [],
            Fact.Said.Is(lines[^1])
        ];
        return place.ItemAt(newest, HistoryKind.Repair, Remark.Of("trace.start-repair", facts)) with
        {
            StopCode = stop,
            IsNotedLater = true
        };
    }

    /// <summary>The stop code behind the word that the repair's log has before it; null where there is none.</summary>
    private static uint? StopIn(string line)
    {
        const string mark = "Bugcheck ";
        var at = line.LastIndexOf(mark, StringComparison.OrdinalIgnoreCase);
        return at < 0 ? null : StopCode.AtStartOf(line.AsSpan(at + mark.Length));
    }

    /// <summary>How often the repair says that it tried; null where the line does not say it.</summary>
    private static int? TriesIn(string line)
    {
        const string mark = "Number of repair attempts:";
        return line.StartsWith(mark, StringComparison.OrdinalIgnoreCase)
            && int.TryParse(line.AsSpan(mark.Length).Trim(), NumberStyles.None, CultureInfo.InvariantCulture, out var tries)
                ? tries
                : null;
    }

    private static HistoryItem? StartLog(HistoryPlace place) =>
        LastLine(place, $@"{place.Folder}\ntbtlog.txt", HistoryKind.Log, "trace.start-log");

    private static HistoryItem? PendingServicing(HistoryPlace place)
    {
        var path = $@"{place.Folder}\WinSxS\pending.xml";
        return place.Files.FileExists(path)
            ? place.ItemAt(path, HistoryKind.Pending, Remark.Of("trace.servicing-pending"))
            : null;
    }

    private static HistoryItem? ServicingLog(HistoryPlace place) =>
        LastLine(place, $@"{place.Folder}\Logs\CBS\CBS.log", HistoryKind.Log, "history.servicing-log");

    private static HistoryItem? SetupErrors(HistoryPlace place) =>
        LastLine(place, $@"{place.Folder}\Panther\setuperr.log", HistoryKind.Log, "history.setup-errors");

    private static HistoryItem? SetupRollback(HistoryPlace place) => LastLine(
        place,
        @"\$WINDOWS.~BT\Sources\Rollback\setupact.log",
        HistoryKind.Log,
        "history.setup-rollback");

    private static HistoryItem? LastLine(HistoryPlace place, string path, HistoryKind kind, string sentence) =>
        LinesOf(place.Files, path) is { Count: > 0 } lines
            ? place.ItemAt(path, kind, new Remark(sentence, new FactSet([Fact.Said.Is(lines[^1])])))
            : null;
}
