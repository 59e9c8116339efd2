using System.Buffers.Binary;
using Keel.Core.Blocks;

namespace Keel.Core.Volumes;

/// <summary>The first four file records of an NTFS volume beside their mirror ($MFTMirr).</summary>
/// <param name="FirstDifferent">The first record that differs; null where all are alike.</param>
/// <param name="MftIsGood">Whether the records in $MFT are whole.</param>
/// <param name="MirrorIsGood">Whether those in the mirror are.</param>
public sealed record NtfsMirror(int? FirstDifferent, bool MftIsGood, bool MirrorIsGood)
{
    private const int Records = 4, SequenceAt = 4, StrideBytes = 512;

    /// <summary>Compares; null where the volume's parameters don't lead to both.</summary>
    public static NtfsMirror? Of(IReadableBlocks partition)
    {
        if (Places(partition) is not { } places || partition.TryRead(places.Mft, places.Bytes) is not { } mft || partition.TryRead(places.Mirror, places.Bytes) is not { } mirror) return null;
        var record = places.Bytes / Records;
        int? different = null;
        for (var number = Records - 1; number >= 0; number--)
        {
            if (!mft.AsSpan(number * record, record).SequenceEqual(mirror.AsSpan(number * record, record))) different = number;
        }

        return new NtfsMirror(different, AreWhole(mft, record), AreWhole(mirror, record));
    }

    /// <summary>Writes the good records over the others; $MFT's where both are good. False where neither is.</summary>
    public static bool Mend(IWritableBlocks partition)
    {
        if (Of(partition) is not { } state || Places(partition) is not { } places || !(state.MftIsGood || state.MirrorIsGood)) return false;
        var (from, to) = state.MftIsGood ? (places.Mft, places.Mirror) : (places.Mirror, places.Mft);
        partition.Write(to, partition.ReadBytes(from, places.Bytes));
        return true;
    }

    private static (long Mft, long Mirror, int Bytes)? Places(IReadableBlocks partition)
    {
        if (partition.TryRead(0, NtfsBootSector.Size) is not { } sector || NtfsBootSector.TryRead(sector) is not { IsPlausible: true } boot || boot.RecordBytes > 4096) return null;
        return (boot.MftCluster * boot.ClusterBytes, boot.MftMirrorCluster * boot.ClusterBytes, boot.RecordBytes * Records);
    }

    /// <summary>A record begins with FILE, and the last two bytes of each 512 are the same number.</summary>
    private static bool AreWhole(byte[] records, int recordBytes)
    {
        for (var at = 0; at < records.Length; at += recordBytes)
        {
            var record = records.AsSpan(at, recordBytes);
            int sequence = BinaryPrimitives.ReadUInt16LittleEndian(record[SequenceAt..]);
            if (!record.StartsWith("FILE"u8) || sequence + 2 > recordBytes) return false;
            for (var end = StrideBytes; end <= recordBytes; end += StrideBytes)
            {
                if (!record.Slice(end - 2, 2).SequenceEqual(record.Slice(sequence, 2))) return false;
            }
        }

        return true;
    }
}
