using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Core.Logbook;

namespace Keel.Cli.Views;

/// <summary>Shows repairs done.</summary>
internal sealed class LogbookView(Screen screen)
{
    public void Show(RepairLogbook logbook, IReadOnlyList<RepairRecord> records)
    {
        if (screen.IsJson)
        {
            KeelJson.Print(new LogbookDocument(logbook.Path, [.. records.Select(ToDocument.Record)]), KeelJson.Default.LogbookDocument);
            return;
        }

        screen.Paragraph(records.Count == 0 ? $"No repairs in the logbook {logbook.Path}." : $"{records.Count} repair{(records.Count == 1 ? "" : "s")} in the logbook {logbook.Path}:", style: "bold");
        foreach (var record in records) ShowOne(record, heading: null);
    }

    public void ShowOne(RepairRecord record, string? heading)
    {
        if (heading is not null) screen.Paragraph(heading, style: "bold");
        var document = record.Document;
        screen.Line();
        screen.Columns([[($"{document.Id}", "bold"), (StateWords(record.State), record.IsPending ? "red" : null), ($"{document.Written.UtcDateTime:yyyy-MM-dd HH:mm} UTC", null)]]);
        foreach (var disk in document.Disks)
            screen.Paragraph($"{disk.Path}, {Sizes.Text(disk.LengthBytes)}, disk {disk.IdentityAfter}: {disk.Ranges.Sum(range => (long)range.Length)} bytes in {disk.Ranges.Count} ranges", indent: 4, hang: 2);
        if (document.Variables is { } variables)
            screen.Paragraph($"firmware variables in {variables.Folder}: {string.Join(", ", variables.Files.Select(file => file.Name.Split('-')[0]))}", indent: 4, hang: 2);
        foreach (var step in document.Steps) screen.Paragraph($"{step.Link}: {step.Summary}", indent: 4, hang: 2);
    }

    /// <summary>The end of an undo or a completion.</summary>
    public void Done(RepairRecord record, string text)
    {
        if (screen.IsJson)
            KeelJson.Print(ToDocument.Record(record), KeelJson.Default.RecordSummary);
        else
            screen.Paragraph(text, style: "green");
    }

    private static string StateWords(RecordState state) => state switch
    {
        RecordState.Writing => "CUT OFF while writing",
        RecordState.Undoing => "CUT OFF while being taken back",
        RecordState.Done => "done",
        _ => "taken back"
    };
}
