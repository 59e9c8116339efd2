using System.Buffers.Binary;
using System.Text;
using Keel.Core.Blocks;
using Keel.Core.Disks.Virtual;

namespace Keel.Core.Disks.Nbd;

/// <summary>Which other files a qcow2 is made of (qcow2 specification, "Header", "Header extensions").</summary>
/// <param name="Backing">The name of what it lies over; null for none.</param>
/// <param name="BackingFormat">What that is said to be; null where it is not said.</param>
/// <param name="DataFile">The name of the file with its data; null where they are in it.</param>
internal sealed record Qcow2Head(string? Backing, string? BackingFormat, string? DataFile)
{
    private const int HeadBytes = 104, VersionAt = 4, BackingAt = 8, BackingLengthAt = 16, ClusterBitsAt = 20, EncryptionAt = 32;
    private const int FeaturesAt = 72, HeadLengthAt = 100, OldHeadBytes = 72, LongestName = 1023;
    private const ulong HasDataFile = 4;
    private const uint EndMark = 0, FormatMark = 0xE2792ACA, DataFileMark = 0x44415441;

    /// <exception cref="Errors.UnreadableException">It is damaged, or of a form that keel does not open.</exception>
    public static Qcow2Head Read(IReadableBlocks file)
    {
        var head = file.TryReadAnyway(0, HeadBytes) ?? throw Damaged("it is too short");
        var version = BinaryPrimitives.ReadUInt32BigEndian(head.AsSpan(VersionAt));
        var clusterBits = BinaryPrimitives.ReadUInt32BigEndian(head.AsSpan(ClusterBitsAt));
        if (version is < 2 or > 3 || clusterBits is < 9 or > 21) throw Damaged("its header is none that is known");
        if (BinaryPrimitives.ReadUInt32BigEndian(head.AsSpan(EncryptionAt)) != 0)
        {
            throw new Errors.UnreadableException(
                "The qcow2 file is encrypted.",
                "keel opens no image that needs a key of its own.",
                "Convert it to a plain one with the program that made it.");
        }

        var headLength = version == 2 ? OldHeadBytes : BinaryPrimitives.ReadUInt32BigEndian(head.AsSpan(HeadLengthAt));
        var cluster = 1L << (int)clusterBits;
        if (headLength < OldHeadBytes || headLength > cluster) throw Damaged("its header is none that is known");
        var extensions = Extensions(file, headLength, cluster);
        var dataFile = extensions.GetValueOrDefault(DataFileMark);
        var needsData = version >= 3 && (BinaryPrimitives.ReadUInt64BigEndian(head.AsSpan(FeaturesAt)) & HasDataFile) != 0;
        if (needsData && dataFile is null) throw Damaged("its data are in another file, which it does not name");
        return new Qcow2Head(
            BackingOf(file, head, cluster),
            extensions.GetValueOrDefault(FormatMark),
            needsData ? dataFile : null);
    }

    private static string? BackingOf(IReadableBlocks file, byte[] head, long cluster)
    {
        var at = BinaryPrimitives.ReadUInt64BigEndian(head.AsSpan(BackingAt));
        var length = BinaryPrimitives.ReadUInt32BigEndian(head.AsSpan(BackingLengthAt));
        if (at == 0) return null;
        var isPossible = length is > 0 and <= LongestName && at <= (ulong)(cluster - length);
        return isPossible && file.TryReadAnyway((long)at, (int)length) is { } name
            ? Text(name)
            : throw Damaged("the name of what it lies over is damaged");
    }

    private static Dictionary<uint, string> Extensions(IReadableBlocks file, long at, long end)
    {
        const int markBytes = 8;
        var found = new Dictionary<uint, string>();
        while (at + markBytes <= end && file.TryReadAnyway(at, markBytes) is { } mark)
        {
            var kind = BinaryPrimitives.ReadUInt32BigEndian(mark);
            var length = BinaryPrimitives.ReadUInt32BigEndian(mark.AsSpan(sizeof(uint)));
            if (kind == EndMark) break;
            at += markBytes;
            if (length > end - at) throw Damaged("an extension of its header is longer than the header");
            if (kind is FormatMark or DataFileMark)
            {
                var bytes = length <= LongestName ? file.TryReadAnyway(at, (int)length) : null;
                if (bytes is null || !found.TryAdd(kind, Text(bytes))) throw Damaged("a name in its header is damaged");
            }

            at += (length + 7) / 8 * 8;
        }

        return found;
    }

    private static string Text(byte[] bytes)
    {
        var text = Encoding.UTF8.GetString(bytes);
        return text.Contains('\0', StringComparison.Ordinal) ? throw Damaged("a name in its header is damaged") : text;
    }

    private static Errors.UnreadableException Damaged(string why) => VirtualDiskErrors.Damaged("qcow2", why);
}
