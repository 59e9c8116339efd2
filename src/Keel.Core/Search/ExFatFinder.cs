using Keel.Core.Blocks;
using Keel.Core.Volumes;

namespace Keel.Core.Search;

/// <summary>Finds exFAT volumes by their boot sector, of which a copy stands twelve sectors behind it.</summary>
internal sealed class ExFatFinder : IVolumeFinder
{
    private const int BackupSector = 12, CompareFrom = 0x40, CompareTo = 0x6A;

    public void Look(IReadableBlocks disk, long at, ReadOnlySpan<byte> sector, List<FoundVolume> found)
    {
        if (!ExFatBootRecord.IsIn(sector)) return;
        var boot = sector.At<ExFatBootRecord>(0);
        if (boot.SectorShift is < 9 or > 12 || boot.Sectors <= 0) return;
        var sectorBytes = 1 << boot.SectorShift;
        if (boot.Sectors > disk.LengthBytes / sectorBytes) return;
        foreach (var start in new[] { at, at - (BackupSector * sectorBytes) })
        {
            var length = boot.Sectors * sectorBytes;
            if (start < 0 || length > disk.LengthBytes - start) continue;
            var evidence = VolumeEvidence.None;
            if (IsTheSame(disk, start, sector)) evidence |= VolumeEvidence.BootSector;
            if (IsTheSame(disk, start + (BackupSector * sectorBytes), sector)) evidence |= VolumeEvidence.BackupSector;
            if (boot.PartitionSector == start / sectorBytes) evidence |= VolumeEvidence.OwnPlace;
            if (HasTable(disk, start + ((long)boot.TableSector * sectorBytes))) evidence |= VolumeEvidence.FileTable;
            var volume = new FoundVolume(
                new ByteRange(start, length),
                FileSystemKind.ExFat,
                FileSystemProbe.Name(FileSystemKind.ExFat),
                evidence);
            if (evidence.HasFlag(VolumeEvidence.FileTable) && volume.Score > 1) found.Add(volume);
        }
    }

    private static bool IsTheSame(IReadableBlocks disk, long at, ReadOnlySpan<byte> sector) =>
        disk.TryReadAnyway(at, ExFatBootRecord.SectorBytes) is { } other
            && ExFatBootRecord.IsIn(other)
            && other.AsSpan(CompareFrom, CompareTo - CompareFrom).SequenceEqual(sector[CompareFrom..CompareTo]);

    private static bool HasTable(IReadableBlocks disk, long at) =>
        disk.TryReadAnyway(at, sizeof(uint)) is [0xF8, 0xFF, 0xFF, 0xFF];
}
