using Keel.Core.Blocks;

namespace Keel.Core.Volumes.Ntfs;

/// <summary>
/// The first four file records of an NTFS volume beside their mirror ($MFTMirr), and beside what the boot sector says of their
/// places.
/// </summary>
/// <param name="FirstDifferent">The first record that differs; null where all are alike.</param>
/// <param name="MftIsGood">Whether the records in $MFT are whole, and are $MFT's.</param>
/// <param name="MirrorIsGood">Whether those in the mirror are.</param>
/// <param name="SaysMftCluster">Where $MFT begins, as its own record says; null where neither side tells.</param>
/// <param name="SaysMirrorCluster">The same for the mirror.</param>
/// <param name="Boot">What the boot sector says.</param>
public sealed record NtfsMirror(
    int? FirstDifferent,
    bool MftIsGood,
    bool MirrorIsGood,
    long? SaysMftCluster,
    long? SaysMirrorCluster,
    NtfsBootSector Boot)
{
    private const int Records = 4;

    /// <summary>
    /// Whether the boot sector's pointers and the records contradict each other: then nothing is written on the word of either.
    /// </summary>
    public bool PointersContradict =>
        (SaysMftCluster is { } mft && mft != Boot.MftCluster)
            || (SaysMirrorCluster is { } mirror && mirror != Boot.MftMirrorCluster);

    /// <summary>Compares; null where the volume's parameters don't lead to both.</summary>
    /// <exception cref="Errors.ReadFailedException">The disk does not give one of them.</exception>
    public static NtfsMirror? Of(IReadableBlocks partition)
    {
        if (Places(partition) is not { } places
            || partition.TryRead(places.Mft, places.Bytes) is not { } mft
            || partition.TryRead(places.Mirror, places.Bytes) is not { } mirror)
        {
            return null;
        }

        var record = places.Bytes / Records;
        int? different = null;
        for (var number = Records - 1; number >= 0; number--)
        {
            if (!mft.AsSpan(number * record, record).SequenceEqual(mirror.AsSpan(number * record, record))) different = number;
        }

        var (mftIsGood, mirrorIsGood) = (AreWhole(mft, record), AreWhole(mirror, record));
        var teller = mftIsGood ? mft : mirrorIsGood ? mirror : null;
        return new NtfsMirror(
            different,
            mftIsGood,
            mirrorIsGood,
            teller is null ? null : NtfsFileRecord.TryRead(teller.AsSpan(0, record))?.FirstDataCluster,
            teller is null ? null : NtfsFileRecord.TryRead(teller.AsSpan(record, record))?.FirstDataCluster,
            places.Boot);
    }

    /// <summary>
    /// Writes the good records over the others; $MFT's where both are good. False where neither is, or the place that would be
    /// written is not surely theirs.
    /// </summary>
    public static bool Mend(IWritableBlocks partition)
    {
        if (Of(partition) is not { PointersContradict: false } state
            || Places(partition) is not { } places
            || !(state.MftIsGood || state.MirrorIsGood))
        {
            return false;
        }

        if (state.SaysMftCluster is null || state.SaysMirrorCluster is null) return false;
        var (from, to) = state.MftIsGood ? (places.Mft, places.Mirror) : (places.Mirror, places.Mft);
        partition.Write(to, partition.ReadBytes(from, places.Bytes));
        return true;
    }

    /// <summary>Whether records of $MFT and its mirror stand where the records themselves say that they do.</summary>
    public bool StandWhereTheySay(IReadableBlocks partition) =>
        SaysMftCluster is { } mft && SaysMirrorCluster is { } mirror && HasRecord(partition, mft) && HasRecord(partition, mirror);

    private bool HasRecord(IReadableBlocks partition, long cluster) =>
        cluster < partition.LengthBytes / Boot.ClusterBytes
            && partition.TryRead(cluster * Boot.ClusterBytes, Boot.RecordBytes) is { } bytes
            && NtfsFileRecord.TryRead(bytes)?.IsNamed("$MFT") == true;

    private static RecordPlaces? Places(IReadableBlocks partition)
    {
        if (partition.TryRead(0, NtfsBootSector.Size) is not { } sector
            || NtfsBootSector.TryRead(sector) is not { IsPlausible: true } boot
            || boot.RecordBytes is < 1024 or > NtfsFileRecord.LargestBytes)
        {
            return null;
        }

        var clusters = partition.LengthBytes / boot.ClusterBytes;
        return boot.MftCluster >= clusters || boot.MftMirrorCluster <= 0 || boot.MftMirrorCluster >= clusters
            ? null
            : new RecordPlaces(
                boot.MftCluster * boot.ClusterBytes,
                boot.MftMirrorCluster * boot.ClusterBytes,
                boot.RecordBytes * Records,
                boot);
    }

    private static bool AreWhole(byte[] records, int recordBytes)
    {
        for (var at = 0; at < records.Length; at += recordBytes)
        {
            if (NtfsFileRecord.TryRead(records.AsSpan(at, recordBytes)) is not { } record) return false;
            if (at == 0 && !record.IsNamed("$MFT")) return false;
            if (at == recordBytes && !record.IsNamed("$MFTMirr")) return false;
        }

        return true;
    }

    /// <summary>Where both stand, in bytes from the volume's start, and how many bytes they are.</summary>
    private sealed record RecordPlaces(long Mft, long Mirror, int Bytes, NtfsBootSector Boot);
}
