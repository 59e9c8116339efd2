using Keel.Core.Blocks;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.BootCode;

/// <summary>
/// A volume's boot sector, compared with its backup copy, with the partition table and with the file system itself.
/// </summary>
/// <param name="Kind">The file system that the sector, or else its backup copy, speaks of.</param>
/// <param name="Code">Whose code it is; null where the sector can't be read.</param>
/// <param name="HasBackup">Whether a backup copy stands where it belongs.</param>
/// <param name="Fields">The fields of the sector.</param>
public sealed record BootSectorReport(FileSystemKind Kind, CodeReading? Code, bool HasBackup, IReadOnlyList<SectorField> Fields)
{
    private const int SectorBytes = 512;

    /// <summary>Reads a volume's boot sector and its backup.</summary>
    public static BootSectorReport Of(DiskVolume volume)
    {
        var here = volume.Blocks.TryRead(0, SectorBytes) ?? new byte[SectorBytes];
        var found = BootSectorRescue.FindBackup(volume);
        var kind = volume.Kind is FileSystemKind.Unknown ? found?.Kind ?? FileSystemKind.Unknown : volume.Kind;
        var own = BootSectorEditor.BackupOffset(volume.Blocks, volume.Kind, here) is { } at
            ? volume.Blocks.TryRead(at, SectorBytes)
            : null;
        var backup = found?.Sector ?? own;
        var code = BootSectorCopy.Recognize(volume.Blocks, volume.Kind);
        return new BootSectorReport(
            kind,
            code,
            found is not null,
            kind == FileSystemKind.Ntfs ? Ntfs(volume, here, backup) : Fat(volume, here, backup));
    }

    private static List<SectorField> Ntfs(DiskVolume volume, byte[] here, byte[]? backup)
    {
        var mft = MftSearch.Find(volume.Blocks);
        SectorField Field(string name, Func<NtfsBootSector, object> read, object? expected = null) =>
            new(
                name,
                Text(NtfsBootSector.TryRead(here), read),
                backup is null ? "" : Text(NtfsBootSector.TryRead(backup), read),
                expected?.ToString() ?? "");
        return
        [
            Field("bytes in a sector", sector => sector.BytesPerSector, volume.Blocks.SectorBytes),
            Field("bytes in a cluster", sector => sector.ClusterBytes, mft?.ClusterBytes),
            Field("hidden sectors", sector => sector.HiddenSectors, volume.Partition.Range.Start / volume.Blocks.SectorBytes),
            Field("sectors", sector => sector.TotalSectors),
            Field("sectors in a track", sector => sector.SectorsPerTrack),
            Field("heads", sector => sector.Heads),
            Field("cluster of $MFT", sector => sector.MftCluster, mft?.MftCluster),
            Field("cluster of $MFTMirr", sector => sector.MftMirrorCluster, mft?.MirrorCluster),
            Field("bytes in a record", sector => sector.RecordBytes, mft?.RecordBytes),
            Field("bytes in an index block", sector => sector.IndexBytes, mft?.IndexBytes),
            Field("serial number", sector => sector.Serial.ToString("X16")),
            Field("55 AA at the end", sector => sector.HasMark ? "yes" : "no", "yes")
        ];
    }

    private static List<SectorField> Fat(DiskVolume volume, byte[] here, byte[]? backup)
    {
        SectorField Field(string name, Func<FatBootSector, object> read, object? expected = null) =>
            new(
                name,
                Text(FatBootSector.TryRead(here), read),
                backup is null ? "" : Text(FatBootSector.TryRead(backup), read),
                expected?.ToString() ?? "");
        return
        [
            Field("bytes in a sector", sector => sector.BytesPerSector, volume.Blocks.SectorBytes),
            Field("bytes in a cluster", sector => sector.ClusterBytes),
            Field("reserved sectors", sector => sector.ReservedSectors),
            Field("FATs", sector => sector.FatCount),
            Field("sectors of a FAT", sector => sector.FatSectors),
            Field("hidden sectors", sector => sector.HiddenSectors, volume.Partition.Range.Start / volume.Blocks.SectorBytes),
            Field("sectors", sector => sector.TotalSectors),
            Field("sectors in a track", sector => sector.SectorsPerTrack),
            Field("heads", sector => sector.Heads),
            Field("cluster of the root", sector => sector.RootCluster),
            Field("serial number", sector => sector.Serial.ToString("X8")),
            Field("55 AA at the end", sector => sector.HasMark ? "yes" : "no", "yes")
        ];
    }

    private static string Text<T>(T? sector, Func<T, object> read)
        where T : class => sector is null ? "-" : read(sector).ToString() ?? "";
}
