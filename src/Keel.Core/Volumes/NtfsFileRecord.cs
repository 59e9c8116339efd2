using System.Buffers.Binary;

namespace Keel.Core.Volumes;

/// <summary>A file record of an NTFS volume with its fix-ups applied ("FILE record", NTFS documentation of Linux-NTFS).</summary>
public sealed class NtfsFileRecord
{
    /// <summary>A record has 1024 bytes as a rule, and at most these.</summary>
    public const int LargestBytes = 4096;

    private const int UpdateWordsAt = 4, FirstAttributeAt = 0x14, AllocatedAt = 0x1C;

    private const int StrideBytes =
        512, AttributeHeaderBytes =
            0x18, ResidentContentAt = 0x14, NonResidentAt = 8, RunsAt = 0x20, NonResidentHeaderBytes = 0x40;

    private const int NameLengthAt = 0x40, NameAt = 0x42;
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
            if (attribute.Length <= NonResidentHeaderBytes || attribute[NonResidentAt] == 0) return null;
            int at = BinaryPrimitives.ReadUInt16LittleEndian(attribute[RunsAt..]);
            return at < attribute.Length ? FirstClusterOf(attribute[at..]) : null;
        }
    }

    /// <summary>Reads a record; nothing where the bytes are none, or its sectors do not belong together.</summary>
    public static NtfsFileRecord? TryRead(ReadOnlySpan<byte> raw)
    {
        if (raw.Length < 2 * StrideBytes || !raw.StartsWith("FILE"u8)) return null;
        var size = BinaryPrimitives.ReadUInt32LittleEndian(raw[AllocatedAt..]);
        int words = BinaryPrimitives.ReadUInt16LittleEndian(raw[UpdateWordsAt..]);
        var count = BinaryPrimitives.ReadUInt16LittleEndian(raw[(UpdateWordsAt + 2)..]) - 1;
        if (size is not (1024 or 2048 or LargestBytes)
            || size > raw.Length
            || count != size / StrideBytes
            || words + ((count + 1) * 2) > StrideBytes - 2)
        {
            return null;
        }

        var record = raw[..(int)size].ToArray();
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
        return content.Length >= NameAt + (name.Length * 2) && content[NameLengthAt] == name.Length
            && System.Text.Encoding.Unicode.GetString(content.Slice(NameAt, name.Length * 2)) == name;
    }

    /// <summary>The content of the first attribute of a type, where it is in the record; empty where it is not.</summary>
    public ReadOnlySpan<byte> ResidentContent(uint type)
    {
        var attribute = Attribute(type);
        if (attribute.Length < AttributeHeaderBytes || attribute[NonResidentAt] != 0) return [];
        int at = BinaryPrimitives.ReadUInt16LittleEndian(attribute[ResidentContentAt..]);
        return at <= attribute.Length ? attribute[at..] : [];
    }

    /// <summary>The first attribute of a type with its header; empty where there is none.</summary>
    private ReadOnlySpan<byte> Attribute(uint type)
    {
        int at = BinaryPrimitives.ReadUInt16LittleEndian(bytes.AsSpan(FirstAttributeAt));
        while (at + AttributeHeaderBytes <= bytes.Length)
        {
            var found = BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(at));
            var length = BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(at + 4));
            if (found == uint.MaxValue || length < AttributeHeaderBytes || length > bytes.Length - at) break;
            if (found == type) return bytes.AsSpan(at, (int)length);
            at += (int)length;
        }

        return [];
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
