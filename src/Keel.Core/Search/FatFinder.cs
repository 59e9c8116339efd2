using Keel.Core.Blocks;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;

namespace Keel.Core.Search;

/// <summary>Finds FAT volumes by their boot sector or its backup, borne out by their tables.</summary>
internal sealed class FatFinder : IVolumeFinder
{
    private const int MediaAt = 0x15, LargestBackupSector = 32;

    public void Look(IReadableBlocks disk, long at, ReadOnlySpan<byte> sector, List<FoundVolume> found)
    {
        if (!BootSectorMark.IsIn(sector)) return;
        if (FatBootSector.TryRead(sector) is not { } boot) return;
        var media = sector[MediaAt];
        if (Judge(disk, at, boot, media) is { } volume) found.Add(volume);
        if (boot.Kind == FileSystemKind.Fat32
            && boot.BackupSector is > 0 and <= LargestBackupSector
            && Judge(disk, at - (boot.BackupSector * boot.BytesPerSector), boot, media) is { } behind)
        {
            found.Add(behind);
        }
    }

    /// <summary>The volume; null where neither of its tables is where it would be.</summary>
    private static FoundVolume? Judge(IReadableBlocks disk, long start, FatBootSector boot, byte media)
    {
        var length = boot.TotalSectors * boot.BytesPerSector;
        if (start < 0 || length <= 0 || length > disk.LengthBytes - start) return null;
        var firstTable = start + ((long)boot.ReservedSectors * boot.BytesPerSector);
        var first = TableHead(disk, firstTable, media);
        var second = boot.FatCount > 1 ? TableHead(disk, firstTable + (boot.FatSectors * boot.BytesPerSector), media) : null;
        if (first is null && second is null) return null;
        var evidence = VolumeEvidence.None;
        if (first is not null) evidence |= VolumeEvidence.FileTable;
        if (second is not null && (first is null || first.AsSpan().SequenceEqual(second)))
            evidence |= VolumeEvidence.FileTableCopy;
        if (IsTheSame(disk, start, boot)) evidence |= VolumeEvidence.BootSector;
        if (boot.BackupSector > 0 && IsTheSame(disk, start + ((long)boot.BackupSector * boot.BytesPerSector), boot))
            evidence |= VolumeEvidence.BackupSector;
        if (boot.HiddenSectors == start / boot.BytesPerSector) evidence |= VolumeEvidence.OwnPlace;
        return new FoundVolume(new ByteRange(start, length), boot.Kind, FileSystemProbe.Name(boot.Kind), evidence)
        {
            SectorBytes = boot.BytesPerSector
        };
    }

    private static bool IsTheSame(IReadableBlocks disk, long at, FatBootSector boot) =>
        disk.TryReadAnyway(at, FatBootSector.Size) is { } sector
            && FatBootSector.TryRead(sector) is { } other
            && other with { HiddenSectors = boot.HiddenSectors } == boot;

    /// <summary>The first bytes of a table: the media byte, and ones behind it.</summary>
    private static byte[]? TableHead(IReadableBlocks disk, long at, byte media)
    {
        const byte ones = 0xFF;
        const int headBytes = 3;
        return disk.TryReadAnyway(at, headBytes) is { } head && head[0] == media && head[1] == ones && head[2] == ones
            ? head
            : null;
    }
}
