using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.BootCode;
using Keel.Core.Machines;
using Keel.Core.Requests;
using Keel.Core.Volumes;

namespace Keel.Cli.Views;

/// <summary>Shows a volume's boot sector beside its copy and what it should be.</summary>
internal sealed class SectorView(Output output)
{
    public void Show(Machine machine, DiskVolume volume, bool isChosen)
    {
        Locks.RefuseLocked(volume);
        var report = BootSectorReport.Of(volume);
        if (output.IsJson)
        {
            KeelJson.Print(
                new SectorDocument(
                    machine.StartDisk.Path,
                    volume.Number,
                    FileSystemProbe.Name(report.Kind),
                    report.Code is null ? null : ToDocument.Word(report.Code.Owner),
                    report.Code?.Name,
                    report.Code?.Loader is { } loader ? (loader == LoaderKind.BootManager ? "BOOTMGR" : "NTLDR") : null,
                    report.HasBackup,
                    [.. report.Fields.Select(field =>
                        new SectorFieldDocument(field.Name, field.Here, field.Backup, field.Expected, field.Differs))]),
                KeelJson.Default.SectorDocument);
            return;
        }

        var differing = report.Fields.Count(field => field.Differs);
        var name = char.ToUpperInvariant($"{volume}"[0]) + $"{volume}"[1..];
        output.Paragraph(
            differing == 0
                ? $"{name}: the boot sector agrees with its backup copy, the table and the file system."
                : $"{name}: {Words.Count(differing, "field of the boot sector differs", "fields of the boot sector differ")} "
                    + "from what other places say.",
            style: differing == 0 ? "green" : "red");
        if (!isChosen) output.Paragraph($"It was taken because {Words.Of(machine.SystemVolumeReason)}.");
        if (BootCodeRequests.NoBootCodeReason(machine) is { } reason) output.Paragraph(Words.Of(reason));
        var kind = FileSystemProbe.Name(report.Kind) is { Length: > 0 } known ? known : "not known";
        var code = report.Code?.Name ?? "unreadable";
        if (report.Code?.Loader is { } wanted) code += $", looks for {(wanted == LoaderKind.BootManager ? "BOOTMGR" : "NTLDR")}";
        var backup = report.HasBackup ? "there" : "none found";
        output.Paragraph($"File system: {kind}. Code: {code}. Backup copy: {backup}.");
        output.Line();
        var rows = new List<(string, string?)[]>
        {
            new (string, string?)[] { ("field", "grey"), ("sector 0", "grey"), ("backup copy", "grey"), ("should be", "grey") }
        };
        rows.AddRange(report.Fields.Select(field => new (string, string?)[]
        {
            ((field.Differs ? "! " : "  ") + field.Name, field.Differs ? "red" : null),
            (field.Here, null),
            (field.Backup.Length > 0 ? field.Backup : "-", null),
            (field.Expected, null)
        }));
        output.Columns(rows, indent: 0);
    }
}
