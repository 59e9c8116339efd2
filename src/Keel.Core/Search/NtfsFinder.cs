using Keel.Core.Blocks;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.Search;

/// <summary>
/// Finds NTFS volumes by their boot sector, its backup at their end, or the first record of $MFT or of its mirror.
/// </summary>
internal sealed class NtfsFinder : IVolumeFinder
{
    private const int BadClustersRecord = 8;

    public void Look(IReadableBlocks disk, long at, ReadOnlySpan<byte> sector, List<FoundVolume> found)
    {
        if (sector.StartsWith("FILE"u8))
        {
            if (ByRecords(disk, at) is { } volume) found.Add(volume);
            return;
        }

        if (!BootSectorMark.IsIn(sector)) return;
        if (NtfsBootSector.TryRead(sector) is not { IsPlausible: true } boot) return;
        foreach (var start in new[] { at, at - (boot.TotalSectors * boot.BytesPerSector) })
        {
            if (start < 0 || start % boot.BytesPerSector != 0) continue;
            var volume = Judge(disk, start, boot);
            if (volume.Range.End <= disk.LengthBytes && IsBorneOut(volume)) found.Add(volume);
        }
    }

    /// <summary>Whether something beyond the one sector that was seen speaks for it.</summary>
    private static bool IsBorneOut(FoundVolume volume) =>
        volume.Score > 1
            && (volume.Evidence & (VolumeEvidence.FileTable | VolumeEvidence.FileTableCopy | VolumeEvidence.BackupSector))
                != VolumeEvidence.None;

    private static FoundVolume Judge(IReadableBlocks disk, long start, NtfsBootSector boot)
    {
        var evidence = VolumeEvidence.None;
        var end = start + (boot.TotalSectors * boot.BytesPerSector);
        if (IsTheSame(disk, start, boot)) evidence |= VolumeEvidence.BootSector;
        if (IsTheSame(disk, end, boot)) evidence |= VolumeEvidence.BackupSector;
        if (boot.HiddenSectors == start / boot.BytesPerSector) evidence |= VolumeEvidence.OwnPlace;
        if (IsMft(disk, start, boot.MftCluster, boot.ClusterBytes, boot.MftCluster)) evidence |= VolumeEvidence.FileTable;
        if (IsMft(disk, start, boot.MftMirrorCluster, boot.ClusterBytes, boot.MftCluster))
            evidence |= VolumeEvidence.FileTableCopy;
        return Of(start, end + boot.BytesPerSector - start, evidence) with { SectorBytes = boot.BytesPerSector };
    }

    /// <summary>Where the first records of $MFT stand, both sides tell of each other, and so of the volume's start.</summary>
    private static FoundVolume? ByRecords(IReadableBlocks disk, long at)
    {
        if (RecordAt(disk, at) is not { } first || !first.IsNamed("$MFT")) return null;
        if (RecordAt(disk, at + first.SizeBytes) is not { } second || !second.IsNamed("$MFTMirr")) return null;
        if (first.FirstDataCluster is not { } mft || second.FirstDataCluster is not { } mirror) return null;
        if (first.ClusterBytes is not { } cluster) return null;
        foreach (var start in new[] { at - (mft * cluster), at - (mirror * cluster) })
        {
            if (start < 0
                || !IsMft(disk, start, mft, cluster, mft)
                || SizeOf(disk, start + (mft * cluster), first.SizeBytes) is not { } clusterBytes) continue;
            var evidence = VolumeEvidence.FileTable;
            if (IsMft(disk, start, mirror, cluster, mft)) evidence |= VolumeEvidence.FileTableCopy;
            if (SectorSays(disk, start, mft) is { } boot)
            {
                var judged = Judge(disk, start, boot);
                if (judged.Range.End <= disk.LengthBytes) return judged;
            }

            // The last cluster is not whole, since the backup of the boot sector takes the last sector.
            var length = Math.Min(clusterBytes + cluster, disk.LengthBytes - start);
            return length < clusterBytes ? null : Of(start, length, evidence);
        }

        return null;
    }

    /// <summary>All clusters of the volume in bytes: $BadClus is as long as the volume.</summary>
    private static long? SizeOf(IReadableBlocks disk, long mftAt, int recordBytes) =>
        RecordAt(disk, mftAt + ((long)BadClustersRecord * recordBytes)) is { } record && record.IsNamed("$BadClus")
            ? record.LongestData
            : null;

    private static NtfsBootSector? SectorSays(IReadableBlocks disk, long start, long mftCluster) =>
        disk.TryReadAnyway(start, NtfsBootSector.Size) is { } sector
            && NtfsBootSector.TryRead(sector) is { IsPlausible: true } boot
            && boot.MftCluster == mftCluster
            ? boot
            : null;

    private static bool IsTheSame(IReadableBlocks disk, long at, NtfsBootSector boot) =>
        disk.TryReadAnyway(at, NtfsBootSector.Size) is { } sector
            && NtfsBootSector.TryRead(sector) is { } other
            && other with { HiddenSectors = boot.HiddenSectors } == boot;

    private static bool IsMft(IReadableBlocks disk, long start, long cluster, int clusterBytes, long mftCluster) =>
        cluster > 0
            && cluster < disk.LengthBytes / clusterBytes
            && RecordAt(disk, start + (cluster * clusterBytes)) is { } record
            && record.IsNamed("$MFT")
            && record.FirstDataCluster == mftCluster;

    private static NtfsFileRecord? RecordAt(IReadableBlocks disk, long at)
    {
        var bytes = (int)Math.Min(NtfsFileRecord.LargestBytes, disk.LengthBytes - at);
        return bytes > 0 && disk.TryReadAnyway(at, bytes) is { } raw ? NtfsFileRecord.TryRead(raw) : null;
    }

    private static FoundVolume Of(long start, long length, VolumeEvidence evidence) =>
        new(new ByteRange(start, length), FileSystemKind.Ntfs, FileSystemProbe.Name(FileSystemKind.Ntfs), evidence);
}
