using System.Globalization;
using Keel.Core.Facts;

namespace Keel.Core.History;

/// <summary>
/// The log that Windows keeps of device installations (a text): sections with a heading, a time, and how they ended. Its times
/// are the machine's own, without a zone.
/// </summary>
internal static class DeviceLog
{
    private const string SectionMark = ">>> [", StartMark = ">>> Section start ", EndMark = "<<< [Exit status: ";
    private const string TimeForm = "yyyy/MM/dd HH:mm:ss.fff";
    private const int SectionsLimit = 40, LineLimit = 200;

    /// <summary>The installations of drivers that its last part tells of.</summary>
    public static IEnumerable<HistoryItem> Read(HistoryPlace place, MachineTimeZone zone)
    {
        var path = $@"{place.Folder}\INF\setupapi.dev.log";
        return FileHistory.LinesOf(place.Files, path, LineLimit) is { } lines
            ? Sections(lines, path, zone).TakeLast(SectionsLimit)
            : [];
    }

    private static IEnumerable<HistoryItem> Sections(IEnumerable<string> lines, string path, MachineTimeZone zone)
    {
        var (heading, time) = ((string?)null, (DateTimeOffset?)null);
        foreach (var line in lines)
        {
            if (line.StartsWith(StartMark, StringComparison.Ordinal))
            {
                time = TimeOf(line[StartMark.Length..], zone);
            }
            else if (line.StartsWith(SectionMark, StringComparison.Ordinal))
            {
                (heading, time) = (line[SectionMark.Length..].TrimEnd(']'), null);
            }
            else if (line.StartsWith(EndMark, StringComparison.Ordinal) && heading is not null)
            {
                if (time is not null && IsInstallation(heading)) yield return ItemOf(heading, time, line, path);
                heading = null;
            }
        }
    }

    private static bool IsInstallation(string heading) =>
        heading.StartsWith("Device Install", StringComparison.OrdinalIgnoreCase)
        || heading.StartsWith("Import Driver Package", StringComparison.OrdinalIgnoreCase)
        || heading.StartsWith("Setup Import Driver Package", StringComparison.OrdinalIgnoreCase);

    private static HistoryItem ItemOf(string heading, DateTimeOffset? time, string end, string path)
    {
        var what = heading[(heading.LastIndexOf(" - ", StringComparison.Ordinal) is var at and >= 0 ? at + 3 : 0)..];
        var isDone = end.Contains("SUCCESS", StringComparison.Ordinal);
        return new HistoryItem(
            time,
            HistoryKind.Driver,
            isDone
                ? Remark.Of("history.device-installed", Fact.What.Is(what))
                : Remark.Of("history.device-failed", Fact.What.Is(what)),
            path);
    }

    private static DateTimeOffset? TimeOf(string text, MachineTimeZone zone) =>
        DateTime.TryParseExact(text.Trim(), TimeForm, CultureInfo.InvariantCulture, DateTimeStyles.None, out var time)
            ? zone.FromLocal(time)
            : null;
}
