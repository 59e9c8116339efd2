using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Logbook;

namespace Keel.Cli.Views;

/// <summary>Shows repairs done.</summary>
internal sealed class LogbookView(Output output)
{
    /// <param name="logbook">The logbook.</param>
    /// <param name="contents">What of it is shown.</param>
    /// <param name="twins">Repairs of other disks with the same identity, which are counted in one line.</param>
    public void Show(RepairLogbook logbook, LogbookContents contents, IReadOnlyList<RepairRecord> twins)
    {
        var records = contents.Records;
        if (output.IsJson)
        {
            KeelJson.Print(
                new LogbookDocument(
                    logbook.Path,
                    [.. records.Select(ToDocument.Record)],
                    [.. contents.Unusable.Select(ToDocument.Unusable)],
                    [.. records.Where(record => !logbook.IsOwn(record)).Select(record => record.Document.Id)],
                    [.. twins.Select(ToDocument.Twin)]),
                KeelJson.Default.LogbookDocument);
            return;
        }

        output.Paragraph(
            records.Count == 0
                ? $"No repairs in the logbook {logbook.Path}."
                : $"{records.Count} repair{(records.Count == 1 ? "" : "s")} in the logbook {logbook.Path}:",
            style: "bold");
        foreach (var record in records)
        {
            ShowOne(record, heading: null);
            if (logbook.IsOwn(record)) continue;
            output.Paragraph("from elsewhere: it does not carry the seal of this computer, or this stick", indent: 4, hang: 2);
        }

        ShowTwins(twins);
        if (contents.Unusable.Count > 0) output.Line();
        foreach (var unusable in contents.Unusable)
        {
            output.Paragraph(
                $"{unusable.Id} {(unusable.IsNewer ? "was written by a newer keel" : "is DAMAGED, and can't be taken back")}: "
                    + $"{unusable.Why}.",
                indent: 2,
                style: "red",
                hang: 2);
        }
    }

    /// <summary>
    /// Machines from one master share signatures and serial numbers: their repairs are one line, with their paths.
    /// </summary>
    private void ShowTwins(IReadOnlyList<RepairRecord> twins)
    {
        const int mostPaths = 3;
        if (twins.Count == 0) return;
        var paths = twins.SelectMany(record => record.Document.Disks).Select(disk => disk.Path).Distinct().ToList();
        var more = paths.Count > mostPaths ? $" and {paths.Count - mostPaths} more" : "";
        output.Line();
        output.Paragraph(
            $"Not listed: {Words.Count(twins.Count, "repair", "repairs")} of other disks with the same identity "
                + $"({string.Join(", ", paths.Take(mostPaths))}{more}).");
    }

    public void ShowOne(RepairRecord record, string? heading)
    {
        if (heading is not null) output.Paragraph(heading, style: "bold");
        var document = record.Document;
        output.Line();
        output.Columns([[
            ($"{document.Id}", "bold"),
            (StateWords(record.State), record.IsPending ? "red" : null),
            ($"{document.Written.UtcDateTime:yyyy-MM-dd HH:mm} UTC", null)
        ]]);
        foreach (var (disk, part) in document.Disks
            .Select((disk, part) => (disk, part))
            .Where(one => one.disk.Ranges.Count > 0 || document.Variables is null))
        {
            var state = record.Parts[part] == record.State ? "" : $" - {StateWords(record.Parts[part])}";
            output.Paragraph(
                $"{disk.Path}, {Sizes.Text(disk.LengthBytes)}, disk {disk.IdentityAfter}: "
                    + $"{Words.Count(disk.Ranges.Sum(range => (long)range.Length), "byte", "bytes")} in "
                    + $"{Words.Count(disk.Ranges.Count, "range", "ranges")}{state}",
                indent: 4,
                hang: 2);
        }

        if (document.Variables is { } variables)
        {
            output.Paragraph(
                $"firmware variables in {variables.Folder}: "
                    + $"{string.Join(", ", variables.Files.Select(file => file.Name.Split('-')[0]))}",
                indent: 4,
                hang: 2);
        }

        foreach (var step in document.Steps) output.Paragraph($"{step.Link}: {step.Summary}", indent: 4, hang: 2);
    }

    /// <summary>In what the disks that are here differ from those of the record, and which of these are not here.</summary>
    public void ShowDifferences(UndoTargets work)
    {
        foreach (var fit in work.Fits)
        {
            if (!fit.HasPath) output.Message($"Note: then it was {fit.Recorded.Path}, and now it is {fit.Disk.Path}.");
            if (fit.IsOtherFile)
                output.Message($"Note: {fit.Disk.Path} is another file than then: moved, copied, or a disk of its own.");
            if (!fit.HasIdentity)
                output.Message($"Note: then it was disk {fit.Recorded.IdentityAfter}, and now it is disk {fit.Disk.Identity}.");
        }

        foreach (var missing in Missing(work)) output.Message($"Note: {missing}");
    }

    /// <summary>The end of an undo; what it says was read from the disk.</summary>
    /// <param name="own">The record of what was overwritten; null where nothing else was.</param>
    public void Undone(UndoTargets work, RepairRecord? own, string path)
    {
        if (output.IsJson)
        {
            KeelJson.Print(ToDocument.Record(work.Record), KeelJson.Default.RecordSummary);
            return;
        }

        var paths = work.Fits.Select(fit => output.Commands.AsTyped(fit.Disk.Path));
        var what = work.Fits.Count > 0
            ? $"Every byte of {string.Join(" and ", paths)} that the repair wrote"
            : $"Every variable in {work.Variables}";
        output.Paragraph($"{what} is back as it was before repair {work.Record.Document.Id}.", style: "green");
        if (own is null) return;
        output.Paragraph($"What stood there is saved as repair {own.Document.Id}. To bring it back:");
        output.Command(output.Commands.Undo(path, own.Document.Id));
    }

    /// <summary>The end of a completion.</summary>
    public void Finished(UndoTargets work)
    {
        if (output.IsJson)
        {
            KeelJson.Print(ToDocument.Record(work.Record), KeelJson.Default.RecordSummary);
            return;
        }

        output.Paragraph(work.Record.IsPending
            ? $"Repair {work.Record.Document.Id} is complete on "
                + $"{string.Join(" and ", work.Fits.Select(fit => fit.Disk.Path))}, and not everywhere."
            : $"Repair {work.Record.Document.Id} is complete: "
                + $"{(work.Record.State == RecordState.Done ? "written" : "taken back")}.",
            style: "green");
        foreach (var missing in Missing(work)) output.Message($"Note: {missing}");
    }

    private static IEnumerable<string> Missing(UndoTargets work)
    {
        var record = work.Record;
        for (var part = 0; part < record.Document.Disks.Count; part++)
        {
            if (record.Document.Disks[part].Ranges.Count > 0
                && record.Parts[part] != RecordState.Undone
                && !work.Parts.Contains(part))
            {
                yield return $"its disk {record.Document.Disks[part].IdentityAfter}, then {record.Document.Disks[part].Path}, "
                    + "is left as it is: it was not found, or not meant.";
            }
        }

        if (record.VariablesPart is { } variables
            && record.Parts[variables] != RecordState.Undone
            && !work.Parts.Contains(variables))
        {
            yield return $"the firmware variables in {record.Document.Variables!.Folder} are left as they are: the folder is "
                + "not here, or not meant.";
        }
    }

    private static string StateWords(RecordState state) => state switch
    {
        RecordState.Writing => "CUT OFF while writing",
        RecordState.Undoing => "CUT OFF while being taken back",
        RecordState.Done => "done",
        _ => "taken back"
    };
}
