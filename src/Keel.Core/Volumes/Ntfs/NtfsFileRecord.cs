using System.Runtime.CompilerServices;
using Keel.Core.Blocks;

namespace Keel.Core.Volumes.Ntfs;

/// <summary>A file record of an NTFS volume with its fix-ups applied ("FILE record", NTFS documentation of Linux-NTFS).</summary>
public sealed class NtfsFileRecord
{
    /// <summary>A record has 1024 bytes as a rule, and at most these.</summary>
    public const int LargestBytes = 4096;

    private const int StrideBytes = 512;
    private static readonly int NameAt = Unsafe.SizeOf<NtfsFileNameRecord>();
    private const uint FileNameType = 0x30, DataType = 0x80;
    private readonly byte[] bytes;

    private NtfsFileRecord(byte[] bytes) => this.bytes = bytes;

    /// <summary>Bytes that the record fills.</summary>
    public int SizeBytes => bytes.Length;

    /// <summary>The first cluster of its unnamed data; null where that is in the record itself, or can't be told.</summary>
    public long? FirstDataCluster
    {
        get
        {
            var attribute = Attribute(DataType);
            if (attribute.Length <= Unsafe.SizeOf<NtfsNonResidentRecord>()) return null;
            var record = attribute.At<NtfsNonResidentRecord>(0);
            return record.Head.IsNonResident != 0 && record.RunsAt < attribute.Length
                ? FirstClusterOf(attribute[record.RunsAt..])
                : null;
        }
    }

    /// <summary>
    /// The size of the volume's clusters in bytes, by its unnamed data: what that takes, divided among the clusters of its runs.
    /// Null where that can't be told.
    /// </summary>
    public int? ClusterBytes
    {
        get
        {
            const int least = 512, most = 2 * 1024 * 1024;
            var attribute = Attribute(DataType);
            if (attribute.Length <= Unsafe.SizeOf<NtfsNonResidentRecord>()) return null;
            var record = attribute.At<NtfsNonResidentRecord>(0);
            if (record.Head.IsNonResident == 0 || record.RunsAt >= attribute.Length) return null;
            var clusters = ClustersIn(attribute[record.RunsAt..]);
            if (clusters <= 0 || record.AllocatedBytes % clusters != 0) return null;
            var bytes = record.AllocatedBytes / clusters;
            return bytes is >= least and <= most && long.IsPow2(bytes) ? (int)bytes : null;
        }
    }

    /// <summary>
    /// The length in bytes of the longest of its data outside the record, named ones too; null where it has none.
    /// </summary>
    public long? LongestData
    {
        get
        {
            long? longest = null;
            ReadOnlySpan<byte> record = bytes;
            for (var at = FirstAttribute(); at >= 0; at = AttributeAfter(at))
            {
                var head = record.At<NtfsAttributeRecord>(at);
                if (head.Type != DataType
                    || head.IsNonResident == 0
                    || head.Length < Unsafe.SizeOf<NtfsNonResidentRecord>()) continue;
                var size = record.At<NtfsNonResidentRecord>(at).SizeBytes;
                if (size > (longest ?? 0)) longest = size;
            }

            return longest;
        }
    }

    /// <summary>Reads a record; nothing where the bytes are none, or its sectors do not belong together.</summary>
    public static NtfsFileRecord? TryRead(ReadOnlySpan<byte> raw)
    {
        if (raw.Length < 2 * StrideBytes || !raw.StartsWith("FILE"u8)) return null;
        var header = raw.At<NtfsFileHeaderRecord>(0);
        int size = (int)Math.Min(header.AllocatedBytes, int.MaxValue), words = header.Block.UpdateWordsAt;
        var count = header.Block.UpdateWordCount - 1;
        if (size is not (1024 or 2048 or LargestBytes)
            || size > raw.Length
            || count != size / StrideBytes
            || words + ((count + 1) * sizeof(ushort)) > StrideBytes - sizeof(ushort))
        {
            return null;
        }

        var record = raw[..size].ToArray();
        var check = record.AsSpan(words, 2).ToArray();
        for (var sector = 0; sector < count; sector++)
        {
            var end = record.AsSpan((sector * StrideBytes) + StrideBytes - 2, 2);
            if (!end.SequenceEqual(check)) return null;
            record.AsSpan(words + 2 + (sector * 2), 2).CopyTo(end);
        }

        return new NtfsFileRecord(record);
    }

    /// <summary>Whether its first name is this one.</summary>
    public bool IsNamed(string name)
    {
        var content = ResidentContent(FileNameType);
        return content.Length >= NameAt + (name.Length * sizeof(char))
            && content.At<NtfsFileNameRecord>(0).NameLength == name.Length
            && System.Text.Encoding.Unicode.GetString(content.Slice(NameAt, name.Length * sizeof(char))) == name;
    }

    /// <summary>The content of the first attribute of a type, where it is in the record; empty where it is not.</summary>
    public ReadOnlySpan<byte> ResidentContent(uint type)
    {
        var attribute = Attribute(type);
        if (attribute.Length < Unsafe.SizeOf<NtfsResidentRecord>()) return [];
        var record = attribute.At<NtfsResidentRecord>(0);
        return record.Head.IsNonResident == 0 && record.ContentAt <= attribute.Length ? attribute[record.ContentAt..] : [];
    }

    /// <summary>The first attribute of a type with its header; empty where there is none.</summary>
    private ReadOnlySpan<byte> Attribute(uint type)
    {
        ReadOnlySpan<byte> record = bytes;
        for (var at = FirstAttribute(); at >= 0; at = AttributeAfter(at))
        {
            var found = record.At<NtfsAttributeRecord>(at);
            if (found.Type == type) return record.Slice(at, (int)found.Length);
        }

        return [];
    }

    /// <summary>Where the first attribute begins; -1 where there is none.</summary>
    private int FirstAttribute() => Checked(bytes.At<NtfsFileHeaderRecord>(0).FirstAttributeAt);

    /// <summary>Where the one behind that at a place begins; -1 behind the last.</summary>
    private int AttributeAfter(int at) => Checked(at + (int)bytes.At<NtfsAttributeRecord>(at).Length);

    /// <summary>A place, where an attribute stands there whole; else -1.</summary>
    private int Checked(int at)
    {
        var leastBytes = Unsafe.SizeOf<NtfsResidentRecord>();
        if (at + leastBytes > bytes.Length) return -1;
        var found = bytes.At<NtfsAttributeRecord>(at);
        var isWhole = found.Type != NtfsAttributeRecord.EndType
            && found.Length >= leastBytes
            && found.Length <= bytes.Length - at;
        return isWhole ? at : -1;
    }

    /// <summary>How many clusters the runs of a list have together; holes don't count.</summary>
    private static long ClustersIn(ReadOnlySpan<byte> runs)
    {
        const int longest = 7;
        long sum = 0;
        while (runs.Length > 0 && runs[0] != 0)
        {
            int lengthBytes = runs[0] & 15, offsetBytes = runs[0] >> 4;
            if (lengthBytes is 0 or > longest || runs.Length < 1 + lengthBytes + offsetBytes) return 0;
            long length = 0;
            for (var index = lengthBytes - 1; index >= 0; index--) length = (length << 8) | runs[1 + index];
            if (offsetBytes > 0) sum += length;
            runs = runs[(1 + lengthBytes + offsetBytes)..];
        }

        return sum;
    }

    /// <summary>The cluster that the first run of a list begins at.</summary>
    private static long? FirstClusterOf(ReadOnlySpan<byte> runs)
    {
        const int longest = 7;
        int lengthBytes = runs[0] & 15, offsetBytes = runs[0] >> 4;
        if (offsetBytes is 0 or > longest || runs.Length < 1 + lengthBytes + offsetBytes) return null;
        long cluster = 0;
        for (var index = offsetBytes - 1; index >= 0; index--) cluster = (cluster << 8) | runs[1 + lengthBytes + index];
        return cluster > 0 ? cluster : null;
    }
}
