using System.Globalization;
using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Snapshots;

namespace Keel.Cli.Views;

/// <summary>Shows the snapshots of volumes.</summary>
internal sealed class SnapshotView(Output output)
{
    /// <summary>The snapshots of these volumes; false where those of one can't be read.</summary>
    public bool Show(Machine machine, IReadOnlyList<DiskVolume> volumes)
    {
        var documents = volumes.Select(Read).ToList();
        if (output.IsJson)
        {
            KeelJson.Print(new SnapshotsDocument(documents), KeelJson.Default.SnapshotsDocument);
            return documents.TrueForAll(document => document.Problem is null);
        }

        if (volumes.Count == 0) ShowNone(machine);
        for (var index = 0; index < volumes.Count; index++) Show(machine, documents[index], isFirst: index == 0);
        if (documents.Find(document => document.Snapshots.Count > 0) is { } some) ShowNext(output.Commands.AsTyped(some.Disk));
        return documents.TrueForAll(document => document.Problem is null);
    }

    private void ShowNone(Machine machine)
    {
        var behind = Locks.Told(machine);
        output.Paragraph($"No volume has snapshots{(behind.Length > 0 ? " that can be seen." : ".")}{behind}", style: "bold");
        output.Paragraph("Windows keeps them where system protection is switched on.", style: "grey");
    }

    private void ShowNext(string disk)
    {
        output.Line();
        output.Paragraph("Next, to see what was in a folder, to copy a file out, and to go back:", style: "grey");
        output.Command($@"keel snapshots look {disk} 1 \Windows");
        output.Command($"keel snapshots take {disk} 1 PATH OUT");
        output.Command($"keel snapshots restore {disk} 1 --preview");
        output.Paragraph(
            "A snapshot shows today's bytes wherever something other than Windows has written since, keel's mends too.",
            style: "grey");
    }

    private void Show(Machine machine, SnapshotVolumeDocument document, bool isFirst)
    {
        var disk = machine.NamedDisks.Count > 1 ? $" of {document.Disk}" : "";
        if (document.Problem is not null)
        {
            output.Heading($"Volume {document.Volume}{disk} has snapshots, which can't be read", isFirst);
            output.Paragraph($"! {document.Problem}", indent: 2, style: "yellow", hang: 2);
            return;
        }

        var count = Words.Count(document.Snapshots.Count, "snapshot", "snapshots");
        output.Heading($"Volume {document.Volume}{disk} has {count}, the youngest first", isFirst);
        output.Columns([.. document.Snapshots.Select(Row)]);
    }

    private static (string, string?)[] Row(SnapshotDocument snapshot) =>
    [
        ($"{snapshot.Number}", "bold"),
        (snapshot.Made.UtcDateTime.ToString("yyyy-MM-dd HH:mm 'UTC'", CultureInfo.InvariantCulture), null),
        (WordsOf(snapshot.Cause), null)
    ];

    private static string WordsOf(string cause) => cause switch
    {
        "restorepoint" => "restore point",
        "earlierversions" => "earlier versions of shared folders",
        "rollback" => "kept by a backup program",
        "backup" => "left by a backup",
        _ => "made for a cause that keel does not know"
    };

    private static SnapshotVolumeDocument Read(DiskVolume volume)
    {
        try
        {
            using var snapshots = volume.OpenSnapshots();
            return new SnapshotVolumeDocument(
                volume.DiskPath,
                volume.Number,
                [.. snapshots?.List.Select(Describe) ?? []],
                Problem: null);
        }
        catch (KeelException e)
        {
            return new SnapshotVolumeDocument(volume.DiskPath, volume.Number, [], $"{e.Why} {e.Todo}");
        }
    }

    private static SnapshotDocument Describe(Snapshot snapshot) =>
        new(snapshot.Number, snapshot.Made, ToDocument.Word(snapshot.Cause), $"{snapshot.Id}", snapshot.VolumeBytes);
}
