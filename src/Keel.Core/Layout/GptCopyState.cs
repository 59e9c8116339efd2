using Keel.Core.Blocks;

namespace Keel.Core.Layout;

/// <summary>How one of the two copies of a GUID partition table stands.</summary>
/// <param name="IsFirst">The one at the start of the disk.</param>
/// <param name="Sector">The sector of its header.</param>
/// <param name="Header">The header; null where there is none.</param>
/// <param name="PartitionCount">How many entries are used; null where they can't be read.</param>
/// <param name="Problem">What is wrong with it; null for a sound one.</param>
public sealed record GptCopyState(bool IsFirst, long Sector, GptHeader? Header, int? PartitionCount, string? Problem)
{
    /// <summary>The first copy, and the second, which a grown disk has elsewhere than at its end.</summary>
    public static IReadOnlyList<GptCopyState> Of(IReadableBlocks disk)
    {
        var last = (disk.LengthBytes / disk.SectorBytes) - 1;
        var first = GptCopy.Read(disk, 1);
        var backup = GptCopy.Read(disk, last);
        var backupSector = last;
        if (!backup.IsSound
            && first.Header is { OtherSector: > 1 and var other }
            && other < last
            && GptCopy.Read(disk, other) is { IsSound: true } elsewhere)
        {
            (backup, backupSector) = (elsewhere, other);
        }

        return [Of(first, isFirst: true, 1, last), Of(backup, isFirst: false, backupSector, last)];
    }

    private static GptCopyState Of(GptCopy copy, bool isFirst, long sector, long lastSector) => new(
        isFirst,
        sector,
        copy.Header,
        copy.Entries is null ? null : copy.Partitions(lastSector).Count(),
        copy.Problem);
}
