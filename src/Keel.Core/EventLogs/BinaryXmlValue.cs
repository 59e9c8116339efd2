using System.Buffers.Binary;
using System.Globalization;
using System.Text;

namespace Keel.Core.EventLogs;

/// <summary>Values of binary XML as text.</summary>
internal static class BinaryXmlValue
{
    private const int TextLimit = 2048, BinaryLimit = 64, ArrayLimit = 64;

    /// <summary>The texts of a value: one, or one an element of an array; none where it is of no known type.</summary>
    public static IEnumerable<string> Texts(byte[] chunk, int at, int size, byte type)
    {
        var bytes = chunk.AsSpan(at, size);
        if ((type & BinaryXmlType.ArrayFlag) == 0)
            return type == BinaryXmlType.Nothing ? [] : [Text(bytes, type)];
        type = (byte)(type & ~BinaryXmlType.ArrayFlag);
        if (type == BinaryXmlType.Text)
        {
            return Encoding.Unicode.GetString(bytes).TrimEnd('\0').Split('\0').Take(ArrayLimit).Select(Short);
        }

        var width = WidthOf(type);
        var texts = new List<string>();
        for (var element = 0; width > 0 && element + width <= size && texts.Count < ArrayLimit; element += width)
            texts.Add(Text(bytes.Slice(element, width), type));
        return texts;
    }

    /// <summary>How many bytes a value of the type takes; 0 where that varies.</summary>
    private static int WidthOf(byte type) => type switch
    {
        BinaryXmlType.Int8 or BinaryXmlType.UInt8 => 1,
        BinaryXmlType.Int16 or BinaryXmlType.UInt16 => 2,
        BinaryXmlType.Int32 or BinaryXmlType.UInt32 or BinaryXmlType.Hex32
            or BinaryXmlType.Boolean or BinaryXmlType.Single => 4,
        BinaryXmlType.Int64 or BinaryXmlType.UInt64 or BinaryXmlType.Hex64
            or BinaryXmlType.Double or BinaryXmlType.FileTime => 8,
        BinaryXmlType.Identifier or BinaryXmlType.SystemTime => 16,
        _ => 0
    };

    private static string Text(ReadOnlySpan<byte> bytes, byte type)
    {
        if (bytes.Length < WidthOf(type)) return "";
        return type switch
        {
            BinaryXmlType.Text => Short(Encoding.Unicode.GetString(bytes).TrimEnd('\0')),
            BinaryXmlType.AnsiText => Short(Encoding.Latin1.GetString(bytes).TrimEnd('\0')),
            BinaryXmlType.Int8 => $"{(sbyte)bytes[0]}",
            BinaryXmlType.UInt8 => $"{bytes[0]}",
            BinaryXmlType.Int16 => $"{BinaryPrimitives.ReadInt16LittleEndian(bytes)}",
            BinaryXmlType.UInt16 => $"{BinaryPrimitives.ReadUInt16LittleEndian(bytes)}",
            BinaryXmlType.Int32 => $"{BinaryPrimitives.ReadInt32LittleEndian(bytes)}",
            BinaryXmlType.UInt32 => $"{BinaryPrimitives.ReadUInt32LittleEndian(bytes)}",
            BinaryXmlType.Int64 => $"{BinaryPrimitives.ReadInt64LittleEndian(bytes)}",
            BinaryXmlType.UInt64 => $"{BinaryPrimitives.ReadUInt64LittleEndian(bytes)}",
            BinaryXmlType.Single => BinaryPrimitives.ReadSingleLittleEndian(bytes).ToString(CultureInfo.InvariantCulture),
            BinaryXmlType.Double => BinaryPrimitives.ReadDoubleLittleEndian(bytes).ToString(CultureInfo.InvariantCulture),
            BinaryXmlType.Boolean => BinaryPrimitives.ReadInt32LittleEndian(bytes) != 0 ? "true" : "false",
            BinaryXmlType.Identifier => new Guid(bytes[..16]).ToString("B"),
            BinaryXmlType.Hex32 => $"0x{BinaryPrimitives.ReadUInt32LittleEndian(bytes):x8}",
            BinaryXmlType.Hex64 => $"0x{BinaryPrimitives.ReadUInt64LittleEndian(bytes):x16}",
            BinaryXmlType.Size => Number(bytes),
            BinaryXmlType.FileTime => Time(EventLog.TimeOf(BinaryPrimitives.ReadInt64LittleEndian(bytes))),
            BinaryXmlType.SystemTime => Time(SystemTime(bytes)),
            BinaryXmlType.Sid => Sid(bytes),
            _ => Convert.ToHexStringLower(bytes[..Math.Min(bytes.Length, BinaryLimit)])
        };
    }

    private static string Number(ReadOnlySpan<byte> bytes) => bytes.Length switch
    {
        sizeof(uint) => $"0x{BinaryPrimitives.ReadUInt32LittleEndian(bytes):x8}",
        sizeof(ulong) => $"0x{BinaryPrimitives.ReadUInt64LittleEndian(bytes):x16}",
        _ => ""
    };

    private static string Short(string text) => text.Length > TextLimit ? text[..TextLimit] : text;

    private static string Time(DateTimeOffset? time) =>
        time?.ToString("yyyy-MM-dd'T'HH:mm:ss.fffffff'Z'", CultureInfo.InvariantCulture) ?? "";

    /// <summary>Eight numbers of 16 bits: year, month, day of the week, day, hour, minute, second, millisecond.</summary>
    private static DateTimeOffset? SystemTime(ReadOnlySpan<byte> bytes)
    {
        int Part(ReadOnlySpan<byte> from, int place) => BinaryPrimitives.ReadUInt16LittleEndian(from[(place * sizeof(ushort))..]);
        var text = $"{Part(bytes, 0):0000}-{Part(bytes, 1):00}-{Part(bytes, 3):00} "
            + $"{Part(bytes, 4):00}:{Part(bytes, 5):00}:{Part(bytes, 6):00}";
        return DateTimeOffset.TryParseExact(
            text,
            "yyyy-MM-dd HH:mm:ss",
            CultureInfo.InvariantCulture,
            DateTimeStyles.AssumeUniversal,
            out var time)
            ? time
            : null;
    }

    private static string Sid(ReadOnlySpan<byte> bytes)
    {
        const int head = 8, authorityAt = 2;
        if (bytes.Length < head || bytes.Length < head + (bytes[1] * sizeof(uint))) return "";
        var authority = (BinaryPrimitives.ReadUInt16BigEndian(bytes[authorityAt..]) * (1L << 32))
            + BinaryPrimitives.ReadUInt32BigEndian(bytes[(authorityAt + sizeof(ushort))..]);
        var text = new StringBuilder($"S-{bytes[0]}-{authority}");
        for (var part = 0; part < bytes[1]; part++)
        {
            var number = BinaryPrimitives.ReadUInt32LittleEndian(bytes[(head + (part * sizeof(uint)))..]);
            text.Append(CultureInfo.InvariantCulture, $"-{number}");
        }

        return text.ToString();
    }
}
