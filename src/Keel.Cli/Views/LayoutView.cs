using Keel.Cli.Terminal;
using Keel.Cli.Views.Json;
using Keel.Cli.Wording;
using Keel.Core.Chain;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Rescue;
using Keel.Core.Search;
using Keel.Core.Volumes;

namespace Keel.Cli.Views;

/// <summary>Shows how a disk is divided, what no table lists, and how a lost table can be read.</summary>
internal sealed class LayoutView(Output output)
{
    private const long Aligned = 1024 * 1024;

    /// <summary>Shows the disk as it is.</summary>
    public void Show(MachineDisk disk, SearchResult search, IReadOnlyList<Finding> findings)
    {
        var areas = LayoutArea.Of(disk, search);
        if (output.IsJson)
        {
            KeelJson.Print(LayoutToDocument.Of(disk, search, areas, findings), KeelJson.Default.LayoutDocument);
            return;
        }

        var layout = disk.Layout;
        var unlisted = areas.Count(area => area.Kind == "unlisted");
        output.Paragraph(FirstLine(findings, unlisted), style: findings.Count == 0 && unlisted == 0 ? "green" : "red");
        output.Paragraph($"{output.Escape(disk.Path)}, {Sizes.Text(disk.Overlay.LengthBytes)}, {Scheme(layout)}");
        output.Line();
        var width = Math.Min(output.Width - 4, 100);
        output.Paragraph(LayoutDrawing.Line(areas, disk.Overlay.LengthBytes, width), indent: 2);
        output.Line();
        output.Columns([.. areas.Select(area => Row(area, layout.SectorBytes))]);
        ShowCopies(disk);
        foreach (var finding in findings)
            output.Paragraph($"! {finding.Id}: {Words.Of(finding.Seen)}", indent: 2, style: "yellow", hang: 2);
        if (unlisted > 0) output.Paragraph("To list what is found:", output.Commands.RescueLayout(disk.Path));
    }

    /// <summary>Shows the ways in which a disk can be read.</summary>
    public void ShowReadings(IReadOnlyList<TableReading> readings, int sectorBytes)
    {
        output.Message("What stands on the disk can be read in several ways:");
        foreach (var (reading, index) in readings.Select((reading, index) => (reading, index)))
        {
            output.Message("");
            output.Message($"{index + 1}:");
            foreach (var partition in reading.Partitions) output.Message($"  {LineOf(partition, sectorBytes)}");
        }
    }

    /// <summary>A partition of a reading in one line.</summary>
    public static string LineOf(ReadPartition partition, int sectorBytes)
    {
        var known = partition.Partition;
        var what = partition.Found?.Name ?? known.TypeName;
        var start = known.Range.Start / sectorBytes;
        var origin = partition.Origin switch
        {
            PartitionOrigin.Listed => "listed",
            PartitionOrigin.Remains => "what is left of the table names it",
            _ => partition.Found is { } found ? EvidenceWords(found) : "holds the logical ones"
        };
        return $"{known.Number}  {what}, from sector {start}, {Sizes.Text(known.Range.Length)}: {origin}";
    }

    /// <summary>What speaks for a volume that was found, in words.</summary>
    public static string EvidenceWords(FoundVolume found) => string.Join(", ", LayoutToDocument.Evidence(found).Select(Word));

    private static string Word(string evidence) => evidence switch
    {
        "boot-sector" => "boot sector",
        "own-place" => "names its own place",
        "backup-sector" => "backup sector",
        "file-table" => "file table",
        "file-table-copy" => "copy of the file table",
        _ => "mark of its file system"
    };

    private static string FirstLine(IReadOnlyList<Finding> findings, int unlisted) =>
        findings.Count > 0 ? findings.MaxBy(finding => finding.Kind.Severity)!.Kind.What
        : unlisted > 0
            ? $"The table is sound; {Words.Count(unlisted, "volume is", "volumes are")} on the disk that it does not list."
        : "The partition table is sound.";

    private static string Scheme(DiskLayout layout) => layout.Scheme switch
    {
        PartitionScheme.Gpt => $"GPT, disk {layout.Identity}",
        PartitionScheme.Mbr => $"MBR, disk signature {layout.Identity}",
        _ => "no partition table"
    };

    private (string, string?)[] Row(LayoutArea area, int sectorBytes)
    {
        var from = area.Range.Start % Aligned == 0
            ? Sizes.Text(area.Range.Start)
            : $"sector {area.Range.Start / sectorBytes}";
        var size = Sizes.Text(area.Range.Length);
        return area switch
        {
            { Partition: { } partition } =>
            [
                ($"{partition.Number}", "bold"),
                (from, null),
                (size, null),
                (Text(area, partition), null)
            ],
            { Found: { } found } =>
            [
                ("?", "yellow"),
                (from, null),
                (size, null),
                ($"{found.Name}, not listed: {EvidenceWords(found)}", "yellow")
            ],
            _ => [("", null), (from, null), (size, null), ("free", "dim")]
        };
    }

    private string Text(LayoutArea area, Partition partition)
    {
        var kind = area.Volume is { } volume ? FileSystemProbe.Name(volume.Kind) : "";
        var parts = new List<string> { partition.TypeName };
        if (kind.Length > 0 && kind != partition.TypeName) parts.Add(kind);
        else if (kind.Length == 0 && area.Found is { } found && found.Name != partition.TypeName) parts.Add(found.Name);
        if (kind.Length > 0
            && area.Volume is { FilesProblem: null } known
            && LayoutToDocument.Label(known) is { Length: > 0 } label)
            parts.Add($"\"{output.Escape(label)}\"");
        if (partition.Active) parts.Add("active");
        if (partition.Logical) parts.Add("logical");
        return string.Join(", ", parts);
    }

    private void ShowCopies(MachineDisk disk)
    {
        if (LayoutToDocument.Copies(disk) is not { Count: > 0 } copies) return;
        output.Heading("Both copies of the GPT");
        string Cell(TableCopyDocument copy, Func<TableCopyDocument, object?> value) => $"{value(copy) ?? "-"}";
        (string Name, Func<TableCopyDocument, object?> Value)[] rows =
        [
            ("sector", copy => copy.Sector),
            ("state", copy => copy.Sound ? "sound" : copy.Problem),
            ("disk", copy => copy.Identity is { } identity ? $"{identity[..8]}..." : null),
            ("partitions", copy => copy.Partitions),
            ("first usable", copy => copy.FirstUsableSector),
            ("last usable", copy => copy.LastUsableSector)
        ];
        output.Columns(
        [
            [("", null), .. copies.Select(copy => ((string, string?))(copy.Place, "bold"))],
            .. rows.Select(row => (IReadOnlyList<(string, string?)>)
                [(row.Name, null), .. copies.Select(copy => ((string, string?))(Cell(copy, row.Value), null))])
                .Select(row => row.ToArray())
        ]);
    }
}
