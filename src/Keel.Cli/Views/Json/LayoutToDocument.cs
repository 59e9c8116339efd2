using Keel.Core.Chain;
using Keel.Core.Errors;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Search;
using Keel.Core.Volumes;

namespace Keel.Cli.Views.Json;

/// <summary>The layout of a disk as a document.</summary>
internal static class LayoutToDocument
{
    private static readonly (VolumeEvidence Evidence, string Word)[] EvidenceNames =
    [
        (VolumeEvidence.BootSector, "boot-sector"),
        (VolumeEvidence.OwnPlace, "own-place"),
        (VolumeEvidence.BackupSector, "backup-sector"),
        (VolumeEvidence.FileTable, "file-table"),
        (VolumeEvidence.FileTableCopy, "file-table-copy"),
        (VolumeEvidence.Mark, "mark")
    ];

    public static LayoutDocument Of(
        MachineDisk disk,
        SearchResult search,
        IReadOnlyList<LayoutArea> areas,
        IReadOnlyList<Finding> findings) => new(
            disk.Path,
            disk.Overlay.LengthBytes,
            disk.Overlay.SectorBytes,
            $"{disk.Layout.Scheme}".ToLowerInvariant(),
            $"{disk.Layout.Identity}",
            search.IsThorough,
            [.. areas.Select(area => Area(area, disk.Overlay.SectorBytes))],
            Copies(disk),
            [.. findings.Select(ToDocument.Finding)]);

    /// <summary>What speaks for a volume, in words that stay.</summary>
    public static IReadOnlyList<string> Evidence(FoundVolume found) =>
        [.. EvidenceNames.Where(name => found.Evidence.HasFlag(name.Evidence)).Select(name => name.Word)];

    /// <summary>The label of a volume; empty where it has none, or can't be read.</summary>
    public static string Label(DiskVolume volume)
    {
        try
        {
            return volume.Files?.Label ?? "";
        }
        catch (KeelException)
        {
            return "";
        }
    }

    /// <summary>Both copies of a GPT; none where the disk has another table.</summary>
    public static IReadOnlyList<TableCopyDocument> Copies(MachineDisk disk)
    {
        if (disk.Layout.Scheme != PartitionScheme.Gpt) return [];
        return
        [
            .. GptCopyState.Of(disk.Overlay).Select(copy => new TableCopyDocument(
                copy.IsFirst ? "first" : "backup",
                copy.Sector,
                copy.Problem is null,
                copy.Problem,
                copy.Header is { } header ? $"{header.DiskGuid}" : null,
                copy.PartitionCount,
                copy.Header?.FirstUsableSector,
                copy.Header?.LastUsableSector))
        ];
    }

    private static LayoutAreaDocument Area(LayoutArea area, int sectorBytes) => new(
        area.Kind,
        area.Range.Start / sectorBytes,
        area.Range.Length / sectorBytes,
        area.Partition?.Number,
        area.Partition?.TypeName,
        area.Volume is { Kind: not FileSystemKind.Unknown } volume ? FileSystemProbe.Name(volume.Kind) : area.Found?.Name,
        area.Volume is { } named ? Label(named) : null,
        area.Partition?.Active ?? false,
        area.Partition?.Logical ?? false,
        area.Found is { } found ? Evidence(found) : [],
        area.Found?.IsCertain);
}
