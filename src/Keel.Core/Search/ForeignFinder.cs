using Keel.Core.Blocks;
using Keel.Core.Volumes;

namespace Keel.Core.Search;

/// <summary>Finds what other systems keep on a disk, and what is encrypted, so that nothing of theirs is overlapped.</summary>
internal sealed class ForeignFinder : IVolumeFinder
{
    private const int SectorBytes = 512;

    public void Look(IReadableBlocks disk, long at, ReadOnlySpan<byte> sector, List<FoundVolume> found)
    {
        foreach (var mark in VolumeMark.All)
        {
            var within = mark.MarkAt % SectorBytes;
            if (!sector[within..].StartsWith(mark.Mark)) continue;
            var start = at - (mark.MarkAt - within);
            if (start < 0 || mark.SizeOf(disk, start) is not { } size || size > disk.LengthBytes - start) continue;
            found.Add(new FoundVolume(
                new ByteRange(start, size),
                mark.Name == FileSystemProbe.Name(FileSystemKind.BitLocker) ? FileSystemKind.BitLocker : FileSystemKind.Unknown,
                mark.Name,
                VolumeEvidence.Mark,
                SizeIsKnown: size > 0));
        }
    }
}
