using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Chain;
using Keel.Core.Logbook;
using Keel.Core.Machines;
using Keel.Core.Mending;

namespace Keel.Cli.Views;

/// <summary>Shows the start entries of a firmware.</summary>
internal sealed class FirmwareView(Output output)
{
    public void ShowList(Machine machine)
    {
        var entries = StartEntry.Of(machine);
        if (output.IsJson)
        {
            KeelJson.Print(ToDocument.Firmware(machine, entries), KeelJson.Default.FirmwareDocument);
            return;
        }

        var first = entries.FirstOrDefault(entry => entry is { Place: not null, Option.IsActive: true });
        output.Paragraph(
            first is null
                ? "The firmware starts none of its entries by itself."
                : $"The firmware starts {first.Name} \"{first.Title}\" first.",
            style: "bold");
        ShowEntries(machine, entries);
        if (machine.Disks.Count == 0)
            output.Paragraph("Whether the targets are there shows beside the disks: keel firmware list DISK", indent: 2);
        var gone = machine.Disks.Count == 0 ? 0 : entries.Count(IsGone);
        if (gone > 0)
        {
            output.Line();
            output.Paragraph($"{gone} {(gone == 1 ? "entry leads" : "entries lead")} nowhere on the disks named. To drop what "
                + "is gone, with every disk of the machine named:");
            output.Command(output.Commands.DropGone(machine));
        }
    }

    public void ShowPlan(Step step, Machine machine)
    {
        if (output.IsJson) return;
        output.Heading("Plan", isFirst: true);
        output.Paragraph(Words.Of(step.Summary), indent: 2, hang: 2);
        foreach (var detail in step.Details) output.Paragraph(Words.Of(detail.Says), indent: 4, style: "grey", hang: 2);
        if (machine.Variables!.Changes().Count == 0) output.Paragraph("The firmware holds exactly this already.", indent: 2);
    }

    public void ShowChanges(Machine machine)
    {
        foreach (var change in machine.Variables!.Changes())
            output.Message($"  {change.Name}: {Bytes(change.Before)} becomes {Bytes(change.After)}");
    }

    public void Finish(Machine machine, Step step, RepairRecord? record, bool isPreview)
    {
        if (output.IsJson)
        {
            KeelJson.Print(
                ToDocument.Firmware(machine, StartEntry.Of(machine)) with
                {
                    Done = isPreview ? null : Words.Of(step.Summary),
                    Record = record?.Document.Id
                },
                KeelJson.Default.FirmwareDocument);
            return;
        }

        output.Line();
        if (isPreview)
        {
            output.Paragraph("This was a preview: nothing was written.");
            return;
        }

        if (record is null)
        {
            output.Paragraph("Nothing had to be written.");
            return;
        }

        output.Paragraph("Written, and read back. The firmware's entries now:", style: "green");
        ShowEntries(machine, StartEntry.Of(machine));
        output.Line();
        output.Paragraph($"Saved as repair {record.Document.Id}. To take it back:");
        output.Command(output.Commands.Undo(machine.Variables!.Folder));
    }

    private static string Bytes(byte[]? bytes) => bytes is null ? "nothing" : $"{bytes.Length} bytes";

    private static bool IsGone(StartEntry entry) => entry.Target is StartTarget.Gone or StartTarget.FileGone;

    private void ShowEntries(Machine machine, IReadOnlyList<StartEntry> entries)
    {
        var knowsDisks = machine.Disks.Count > 0;
        output.Columns([.. entries.Select((entry, index) => new (string, string?)[]
        {
            ($"{index + 1}", "bold"),
            (entry.Name, "grey"),
            (entry.Title, null),
            (TargetOf(machine, entry, knowsDisks), knowsDisks && IsGone(entry) ? "red" : null)
        })]);
    }

    private static string TargetOf(Machine machine, StartEntry entry, bool knowsDisks)
    {
        var words = new List<string>();
        if (entry.Option is { IsActive: false }) words.Add("switched off");
        if (entry.Place is null) words.Add("not in the order");
        if (machine.Variables!.Next == entry.Number) words.Add("NEXT START ALONE");
        if (machine.Variables.Current == entry.Number) words.Add("started now");
        if (knowsDisks && entry.Target == StartTarget.Gone) words.Add(entry.Option is null ? "GONE" : "DISK GONE");
        if (knowsDisks && entry.Target == StartTarget.FileGone) words.Add("FILE GONE");
        words.Add(entry.Describe());
        return string.Join(", ", words);
    }
}
