using System.Buffers.Binary;
using Keel.Core.Blocks;

namespace Keel.Core.BootCode;

/// <summary>Finds $MFT on a volume whose boot sector is lost, and what it tells of the volume's parameters.</summary>
internal static class MftSearch
{
    private const int StepBytes = 4096, LargestRecordBytes = 4096, ScanBytes = 64 * 1024 * 1024;
    private const int RecordAllocatedAt = 0x1C, FirstAttributeAt = 0x14, UpdateWordsAt = 4;
    private const uint DataType = 0x80, IndexRootType = 0x90, FileNameType = 0x30;

    /// <summary>What the parameters of an NTFS volume follow from.</summary>
    internal sealed record Found(long MftCluster, long MirrorCluster, int ClusterBytes, int RecordBytes, int IndexBytes);

    /// <summary>Looks in the usual places: the first 64 MiB, around 3 GiB, a third and the middle of the volume.</summary>
    public static Found? Find(IReadableBlocks volume)
    {
        const long usualPlace = 3L * 1024 * 1024 * 1024;
        var length = volume.LengthBytes;
        ReadOnlySpan<(long Start, long Bytes)> places = [(0, ScanBytes), (usualPlace, StepBytes), (length / 3, ScanBytes / 4), (length / 2, ScanBytes / 4)];
        foreach (var (start, bytes) in places)
        {
            var from = start / StepBytes * StepBytes;
            for (var at = from; at < from + bytes && at + LargestRecordBytes <= length; at += StepBytes)
            {
                if (TryFound(volume, at) is { } found) return found;
            }
        }

        return null;
    }

    private static Found? TryFound(IReadableBlocks volume, long at)
    {
        var mark = volume.TryRead(at, 4);
        if (mark is null || !mark.AsSpan().SequenceEqual("FILE"u8)) return null;
        if (Record(volume, at) is not { } first || !IsNamed(first, "$MFT")) return null;
        var recordBytes = (int)BinaryPrimitives.ReadUInt32LittleEndian(first.AsSpan(RecordAllocatedAt));
        if (Record(volume, at + recordBytes) is not { } second || !IsNamed(second, "$MFTMirr")) return null;
        if (Record(volume, at + (5 * recordBytes)) is not { } root) return null;
        var mft = FirstCluster(first);
        var mirror = FirstCluster(second);
        if (mft <= 0 || mirror <= 0 || at % mft != 0) return null;
        var cluster = at / mft;
        var index = Attribute(root, IndexRootType) is { Length: > 0x2C } indexRoot ? (int)BinaryPrimitives.ReadUInt32LittleEndian(indexRoot[(BinaryPrimitives.ReadUInt16LittleEndian(indexRoot[0x14..]) + 8)..]) : 0;
        var plausible = cluster is >= 512 and <= 2 * 1024 * 1024 && long.IsPow2(cluster) && index is >= 512 and <= 65536 && int.IsPow2(index);
        return plausible ? new Found(mft, mirror, (int)cluster, recordBytes, index) : null;
    }

    /// <summary>A file record with its fix-ups applied; null where it is none.</summary>
    private static byte[]? Record(IReadableBlocks volume, long at)
    {
        var record = volume.TryRead(at, LargestRecordBytes);
        if (record is null || !record.AsSpan().StartsWith("FILE"u8)) return null;
        var size = BinaryPrimitives.ReadUInt32LittleEndian(record.AsSpan(RecordAllocatedAt));
        var words = BinaryPrimitives.ReadUInt16LittleEndian(record.AsSpan(UpdateWordsAt));
        var count = BinaryPrimitives.ReadUInt16LittleEndian(record.AsSpan(UpdateWordsAt + 2)) - 1;
        if (size is not (1024 or 2048 or 4096) || count != size / 512 || words > 0x1E0) return null;
        for (var sector = 0; sector < count; sector++)
            record.AsSpan(words + 2 + (sector * 2), 2).CopyTo(record.AsSpan((sector * 512) + 510));
        return record[..(int)size];
    }

    private static bool IsNamed(byte[] record, string name)
    {
        var attribute = Attribute(record, FileNameType);
        if (attribute.Length < 0x18 + 0x42 + (name.Length * 2)) return false;
        var content = attribute[BinaryPrimitives.ReadUInt16LittleEndian(attribute[0x14..])..];
        return content.Length >= 0x42 + (name.Length * 2) && content[0x40] == name.Length
            && System.Text.Encoding.Unicode.GetString(content.Slice(0x42, name.Length * 2)) == name;
    }

    /// <summary>The first cluster of the record's unnamed data; 0 where there is none.</summary>
    private static long FirstCluster(byte[] record)
    {
        var attribute = Attribute(record, DataType);
        if (attribute.Length < 0x48 || attribute[8] == 0) return 0;
        var runs = attribute[BinaryPrimitives.ReadUInt16LittleEndian(attribute[0x20..])..];
        int lengthBytes = runs[0] & 15, offsetBytes = runs[0] >> 4;
        if (offsetBytes is 0 or > 7 || runs.Length < 1 + lengthBytes + offsetBytes) return 0;
        long cluster = 0;
        for (var index = offsetBytes - 1; index >= 0; index--) cluster = (cluster << 8) | runs[1 + lengthBytes + index];
        return cluster;
    }

    private static ReadOnlySpan<byte> Attribute(byte[] record, uint type)
    {
        var at = (int)BinaryPrimitives.ReadUInt16LittleEndian(record.AsSpan(FirstAttributeAt));
        while (at + 0x18 <= record.Length)
        {
            var found = BinaryPrimitives.ReadUInt32LittleEndian(record.AsSpan(at));
            var length = BinaryPrimitives.ReadUInt32LittleEndian(record.AsSpan(at + 4));
            if (found == uint.MaxValue || length < 0x18 || at + length > record.Length) break;
            if (found == type) return record.AsSpan(at, (int)length);
            at += (int)length;
        }

        return [];
    }
}
