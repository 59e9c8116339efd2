using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Chain;
using Keel.Core.History;
using Keel.Core.Machines;

namespace Keel.Cli.Views;

/// <summary>Shows what a machine remembers: what can be gathered from it first, then item by item, the newest first.</summary>
/// <param name="isUtc">Whether times are told in UTC.</param>
/// <param name="isAll">Whether nothing is folded.</param>
internal sealed class HistoryView(Output output, bool isUtc, bool isAll)
{
    public void Show(Machine machine, WindowsMemory memory)
    {
        if (output.IsJson)
        {
            KeelJson.Print(HistoryToDocument.Of(machine, memory), KeelJson.Default.HistoryDocument);
            return;
        }

        var history = memory.History;
        var sentences = new HistorySentences(history, isUtc);
        output.Paragraph(sentences.Answer(), style: history.Judgement.HasTrouble ? "red" : "green");
        foreach (var reason in sentences.Reasons()) output.Paragraph(reason, hang: 2);
        output.Paragraph(
            $"Gathered from what the Windows in {memory.Folder} on {memory.Volume} wrote down: history, never proof.",
            style: "grey");
        ShowItems(history, sentences);
        ShowEnd(machine, history);
    }

    private void ShowItems(MachineHistory history, HistorySentences sentences)
    {
        if (history.Items.Count == 0) return;
        var older = isAll ? [] : history.Items.Where(item => IsUsualAndOld(item, history.Judgement)).ToList();
        output.Heading($"Newest first; times are {(isUtc ? "UTC" : $"the machine's own ({history.Zone.Name})")}");
        output.Columns([.. history.Items.Except(older).Select(item => new (string, string?)[]
        {
            (sentences.Time(item.Time), null),
            (Word(item), Style(item)),
            (Told(item, sentences), null)
        })]);
        var starts = older.Count(item => item.Kind == HistoryKind.GoodStart);
        if (starts > 0)
        {
            output.Paragraph(
                $"and before that {Words.Count(starts, "good start", "good starts")}, back to {sentences.Time(older[^1].Time)}",
                indent: 2,
                style: "grey");
        }
    }

    /// <summary>Starts and shutdowns as they should be, before the last good start: they are counted.</summary>
    private static bool IsUsualAndOld(HistoryItem item, HistoryJudgement judgement) =>
        item.Kind is HistoryKind.Start or HistoryKind.GoodStart or HistoryKind.ShutDown && item.Time < judgement.LastGoodStart;

    private static string Told(HistoryItem item, HistorySentences sentences)
    {
        var since = sentences.Time(item.Since);
        var times = item.Times == 1 ? ""
            : since == sentences.Time(item.Time) ? $", {item.Times} times"
            : $", {item.Times} times since {since}";
        return $"{Words.Of(item.Says)}{times} [{Source(item)}]".TrimStart();
    }

    /// <summary>The provider without what most of them begin with, and the event's number; or the file.</summary>
    private static string Source(HistoryItem item)
    {
        const string usual = "Microsoft-Windows-";
        if (item.Provider is not { } provider) return item.Source;
        return $"{(provider.StartsWith(usual, StringComparison.Ordinal) ? provider[usual.Length..] : provider)} {item.EventId}";
    }

    private void ShowEnd(Machine machine, MachineHistory history)
    {
        output.Line();
        var log = history.EventLog;
        if (log.Path is null) output.Paragraph("There is no event log; what is told comes from other files.", style: "yellow");
        if (log.IsUnreadable) output.Paragraph($"The event log {log.Path} can't be read to its end.", style: "yellow");
        if (log.DamagedPlaces > 0)
        {
            output.Paragraph(
                $"{Words.Count(log.DamagedPlaces, "place", "places")} in the event log {(log.DamagedPlaces == 1 ? "is" : "are")} "
                    + "damaged and left out.",
                style: "yellow");
        }

        if (history.IsCutOff) output.Paragraph("The event log goes back further: --all reads all of it.", style: "grey");
        output.Paragraph("Next:", output.Commands.Diagnose(machine), style: "bold");
    }

    private static string Word(HistoryItem item) => item.Kind switch
    {
        HistoryKind.Start => "start",
        HistoryKind.GoodStart => "good",
        HistoryKind.ShutDown => "off",
        HistoryKind.WentDark => "DARK",
        HistoryKind.Stop => "STOP",
        HistoryKind.Driver => "driver",
        HistoryKind.Service => "driver",
        HistoryKind.Update => "update",
        HistoryKind.UpdateTrouble => "update",
        HistoryKind.NotStarted => "failed",
        HistoryKind.Disk => "DISK",
        HistoryKind.FileSystem => "files",
        HistoryKind.Repair => "repair",
        HistoryKind.Pending => "waits",
        HistoryKind.Log => "log",
        _ => ""
    };

    private static string? Style(HistoryItem item) => item.Kind switch
    {
        HistoryKind.Stop or HistoryKind.Disk or HistoryKind.WentDark => "red",
        HistoryKind.GoodStart => "green",
        HistoryKind.Driver or HistoryKind.Service or HistoryKind.Update or HistoryKind.UpdateTrouble => "yellow",
        HistoryKind.FileSystem or HistoryKind.NotStarted or HistoryKind.Repair or HistoryKind.Pending => "yellow",
        _ => "grey"
    };
}
