using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Requests;

namespace Keel.Cli.Views;

/// <summary>Shows a master boot record.</summary>
internal sealed class MbrView(Output output)
{
    public void Show(Machine machine)
    {
        var record = new MasterBootRecord(machine.StartDisk.Overlay.ReadBytes(0, MasterBootRecord.Size));
        var reading = CodeRecognizer.OfMbr(record.Code);
        var findings =
            Walk
                .Of(machine).Findings
                .Where(finding => finding.Link is Link.DiskLayout or Link.MbrCode or Link.ActiveMark)
                .ToList();
        var slots = Enumerable.Range(0, MasterBootRecord.SlotCount).Select(record.Slot).ToList();
        if (output.IsJson)
        {
            KeelJson.Print(
                new MbrDocument(
                    machine.StartDisk.Path,
                    $"{record.Signature:x8}",
                    record.HasMark,
                    ToDocument.Word(reading.Owner),
                    reading.Name,
                    [.. slots.Select((slot, index) =>
                        new SlotDocument(
                            index + 1,
                            slot.Active,
                            slot.Type,
                            PartitionTypes.Name(slot.Type),
                            slot.FirstSector,
                            slot.SectorCount))],
                    [.. findings.Select(ToDocument.Finding)]),
                KeelJson.Default.MbrDocument);
            return;
        }

        output.Paragraph(
            findings.Count == 0 ? "The master boot record is sound." : findings[0].Kind.What,
            style: findings.Count == 0 ? "green" : "red");
        if (BootCodeRequests.NoBootCodeReason(machine) is { } reason) output.Paragraph(Words.Of(reason));
        output.Line();
        output.Columns(
        [
            [("code", null), ($"{reading.Name}", null)],
            [("disk signature", null), ($"{record.Signature:x8}", null)],
            [("55 AA at the end", null), (record.HasMark ? "yes" : "no", record.HasMark ? null : "red")]
        ]);
        output.Heading("The table");
        output.Columns([.. slots.Select((slot, index) => new (string, string?)[]
        {
            ($"{index + 1}", "bold"),
            (slot.IsUsed ? $"{slot.Type:x2} {PartitionTypes.Name(slot.Type)}" : "unused", null),
            (slot.Active ? "active" : "", "green"),
            (
                slot.IsUsed
                    ? $"from sector {slot.FirstSector}, {slot.SectorCount} sectors, "
                        + $"{Sizes.Text((long)slot.SectorCount * machine.StartDisk.Overlay.SectorBytes)}"
                    : "",
                null)
        })]);
        foreach (var finding in findings)
            output.Paragraph($"! {finding.Id}: {Words.Of(finding.Seen)}", indent: 2, style: "yellow", hang: 2);
    }
}
