using Keel.Core.Blocks;
using Keel.Core.Volumes.Fat;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.BootCode;

/// <summary>Finds file systems by their own boot sectors: where they begin, and how long they say they are.</summary>
internal static class LostVolumes
{
    private const int SectorBytes = 512, OldFirstSector = 63, AlignmentSectors = 2048;
    private const int StepLimit = 8192;

    /// <summary>
    /// The range that the file system at a place says it fills, where it has a boot sector that names this very place.
    /// </summary>
    public static ByteRange? At(IReadableBlocks disk, long startBytes)
    {
        if (disk.TryRead(startBytes, SectorBytes) is not { } sector) return null;
        (long Bytes, uint Hidden)? claim = NtfsBootSector.TryRead(sector) is { IsPlausible: true } ntfs
            ? ((ntfs.TotalSectors + 1) * ntfs.BytesPerSector, ntfs.HiddenSectors)
            : FatBootSector.TryRead(sector) is { } fat ? (fat.TotalSectors * fat.BytesPerSector, fat.HiddenSectors)
            : null;
        return claim is { } found
            && found.Hidden == startBytes / disk.SectorBytes
            && found.Bytes > 0
            && found.Bytes <= disk.LengthBytes - startBytes
            ? new ByteRange(startBytes, found.Bytes)
            : null;
    }

    /// <summary>
    /// File systems at the usual places (sector 63, whole MiB) that no given range covers. Looks at 8192 places at most.
    /// </summary>
    public static IEnumerable<ByteRange> Outside(IReadableBlocks disk, IReadOnlyList<ByteRange> covered)
    {
        var step = (long)AlignmentSectors * SectorBytes;
        var places = Enumerable
            .Range(1, StepLimit)
            .Select(number => number * step)
            .Prepend((long)OldFirstSector * SectorBytes)
            .TakeWhile(place => place < disk.LengthBytes);
        foreach (var place in places)
        {
            if (covered.Any(range => range.Contains(place))) continue;
            if (At(disk, place) is { } found && !covered.Any(found.Overlaps)) yield return found;
        }
    }
}
