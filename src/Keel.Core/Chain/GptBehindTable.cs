using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Layout;

namespace Keel.Core.Chain;

/// <summary>Tells whether a GPT behind a table of the old kind is the truth or a left-over: the file systems know.</summary>
internal static class GptBehindTable
{
    private const double NearlyWhole = 0.9;

    /// <summary>Whether volumes stand where the GPT lists them, and fewer where the old table does.</summary>
    public static bool IsTheRightOne(IReadableBlocks disk, DiskLayout table)
    {
        var last = (disk.LengthBytes / disk.SectorBytes) - 1;
        var copy = GptCopy.Read(disk, 1);
        if (!copy.IsSound) return false;
        var named = copy.Partitions(last).Select(sectors => new ByteRange(
            sectors.First * disk.SectorBytes,
            (sectors.Last - sectors.First + 1) * disk.SectorBytes));
        var byGpt = named.Count(range => IsFilled(disk, range));
        var byTable = table.Partitions.Count(partition => !partition.IsExtended && IsFilled(disk, partition.Range));
        return byGpt > byTable;
    }

    /// <summary>Whether a file system begins where a range does, and ends about where it ends.</summary>
    private static bool IsFilled(IReadableBlocks disk, ByteRange range) =>
        LostVolumes.At(disk, range.Start) is { } volume
            && volume.End <= range.End
            && volume.Length >= range.Length * NearlyWhole;
}
