using System.Buffers.Binary;
using Keel.Core.Blocks;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.BootCode;

/// <summary>Finds $MFT on a volume whose boot sector is lost, and what it tells of the volume's parameters.</summary>
internal static class MftSearch
{
    private const int StepBytes = 4096, ScanBytes = 64 * 1024 * 1024, RootRecord = 5, IndexBytesAt = 8;
    private const uint IndexRootType = 0x90;

    /// <summary>What the parameters of an NTFS volume follow from.</summary>
    internal sealed record Found(long MftCluster, long MirrorCluster, int ClusterBytes, int RecordBytes, int IndexBytes);

    /// <summary>Looks in the usual places: the first 64 MiB, around 3 GiB, a third and the middle of the volume.</summary>
    public static Found? Find(IReadableBlocks volume)
    {
        const long usualPlace = 3L * 1024 * 1024 * 1024;
        var length = volume.LengthBytes;
        ReadOnlySpan<(long Start, long Bytes)> places = [
            (0, ScanBytes),
            (usualPlace, StepBytes),
            (length / 3, ScanBytes / 4),
            (length / 2, ScanBytes / 4)
        ];
        foreach (var (start, bytes) in places)
        {
            var from = start / StepBytes * StepBytes;
            for (var at = from; at < from + bytes && at + NtfsFileRecord.LargestBytes <= length; at += StepBytes)
            {
                if (TryFound(volume, at) is { } found) return found;
            }
        }

        return null;
    }

    private static Found? TryFound(IReadableBlocks volume, long at)
    {
        var mark = volume.TryReadAnyway(at, 4);
        if (mark is null || !mark.AsSpan().SequenceEqual("FILE"u8)) return null;
        if (Record(volume, at) is not { } first || !first.IsNamed("$MFT")) return null;
        if (Record(volume, at + first.SizeBytes) is not { } second || !second.IsNamed("$MFTMirr")) return null;
        if (Record(volume, at + (RootRecord * first.SizeBytes)) is not { } root) return null;
        if (first.FirstDataCluster is not { } mft || second.FirstDataCluster is not { } mirror || at % mft != 0) return null;
        var cluster = at / mft;
        var indexRoot = root.ResidentContent(IndexRootType);
        var index = indexRoot.Length >= IndexBytesAt + sizeof(uint)
            ? BinaryPrimitives.ReadUInt32LittleEndian(indexRoot[IndexBytesAt..])
            : 0;
        var plausible =
            cluster is >= 512 and <= 2 * 1024 * 1024
                && long.IsPow2(cluster)
                && index is >= 512 and <= 65536
                && uint.IsPow2(index);
        return plausible ? new Found(mft, mirror, (int)cluster, first.SizeBytes, (int)index) : null;
    }

    private static NtfsFileRecord? Record(IReadableBlocks volume, long at) =>
        volume.TryReadAnyway(at, NtfsFileRecord.LargestBytes) is { } bytes ? NtfsFileRecord.TryRead(bytes) : null;
}
