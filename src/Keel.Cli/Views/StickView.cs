using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Machines;
using Keel.Core.Sticks;
using Keel.Core.Volumes;

namespace Keel.Cli.Views;

/// <summary>Shows what will be lost on a stick, that it was written, and what a check of it found.</summary>
internal sealed class StickView(Output output)
{
    /// <summary>What is on the stick now, and what comes in its place.</summary>
    public void ShowLoss(DiskFile image, MediumImage medium, string stick, Machine? now)
    {
        if (output.IsJson) return;
        var label = medium.Label.Length > 0 ? $" \"{medium.Label}\"" : "";
        output.Paragraph(
            $"{output.Commands.AsTyped(stick)} is written over with the image{label}, {Sizes.Text(image.LengthBytes)}.",
            style: "bold");
        if (now is null)
        {
            output.Paragraph("What is on it now can't be read.");
            return;
        }

        var disk = now.StartDisk;
        var identified = ComputerView.Identified(disk.Traits) is { Length: > 0 } words ? $", {words}" : "";
        output.Paragraph($"It has {Sizes.Text(disk.Overlay.LengthBytes)}{identified}.");
        if (disk.Volumes.Count == 0)
            output.Paragraph("No partition is on it, as far as its table says. The logbook does not keep what it holds.");
        else
            output.Heading("LOST, and not in the logbook:");
        output.Columns([.. disk.Volumes.Select(Row)]);
    }

    /// <summary>The end of a writing.</summary>
    public void Written(DiskFile image, DiskFile stick, ByteRange? log, TimeSpan elapsed)
    {
        var speed = image.LengthBytes / Math.Max(0.001, elapsed.TotalSeconds);
        if (output.IsJson)
        {
            KeelJson.Print(
                new StickWrittenDocument(stick.Path, image.Path, image.LengthBytes, (long)speed, log?.Start, log?.Length),
                KeelJson.Default.StickWrittenDocument);
            return;
        }

        output.Paragraph(
            $"Written and read back: {Sizes.Text(image.LengthBytes)} in {elapsed.TotalSeconds:0.0} s, "
                + $"{Sizes.Text((long)speed)}/s.",
            style: "bold green");
        output.Paragraph(log is { } range
            ? $"Logbook and reports have a partition of their own there: KEELLOG, {Sizes.Text(range.Length)}."
            : "There is no partition for logbook and reports: no room was left for it, or it was not wanted.");
        output.Line();
        output.Paragraph("Next:", $"keel stick check {CommandWords.Quoted(output.Commands.AsTyped(stick.Path))}");
    }

    /// <summary>What a check found.</summary>
    public void Checked(DiskFile stick, StickReport report)
    {
        if (output.IsJson)
        {
            KeelJson.Print(
                new StickCheckedDocument(
                    stick.Path,
                    report.Image.Label,
                    report.IsWhole,
                    report.StartsBios,
                    report.StartsUefi,
                    report.Log?.Number,
                    [.. report.Problems.Select(Words.Of)]),
                KeelJson.Default.StickCheckedDocument);
            return;
        }

        var verdict = !report.IsGood ? ("NOT GOOD: do not rely on this medium.", "bold red")
            : report.IsWhole is null ? ("STARTS: both kinds of firmware find something to start on it.", "bold green")
            : ("GOOD: it is whole, and both kinds of firmware find something to start on it.", "bold green");
        output.Paragraph(verdict.Item1, style: verdict.Item2);
        output.Columns(
        [
            [("label", "grey"), (report.Image.Label.Length > 0 ? report.Image.Label : "-", null)],
            [("whole", "grey"), (Answer(report.IsWhole), null)],
            [("BIOS", "grey"), (report.StartsBios ? "finds boot code" : "NOTHING to start", null)],
            [("UEFI", "grey"), (report.StartsUefi ? @"finds \EFI\BOOT\BOOTX64.EFI" : "NOTHING to start", null)],
            [("logbook", "grey"), (LogbookOf(report), null)]
        ]);
        foreach (var problem in report.Problems) output.Paragraph(Words.Of(problem), hang: 2);
    }

    private static string LogbookOf(StickReport report) =>
        report.Log is { } log ? $"volume {log.Number}, {Sizes.Text(log.Range.Length)}" : "no partition";

    private static string Answer(bool? isWhole) => isWhole switch { true => "yes", false => "NO", _ => "not known" };

    private static (string, string?)[] Row(DiskVolume volume)
    {
        var label = volume.Files?.Label is { Length: > 0 } text ? $"\"{text}\"" : "without a label";
        var used = volume.Files is { } files
            ? $"{Sizes.Text(volume.Partition.Range.Length - files.FreeBytes)} used"
            : "not readable here";
        return
        [
            ($"{volume.Number}", "bold"),
            (Sizes.Text(volume.Partition.Range.Length), null),
            (FileSystemProbe.Name(volume.Kind) is { Length: > 0 } name ? name : volume.Partition.TypeName, null),
            (used, null),
            (label, null)
        ];
    }
}
