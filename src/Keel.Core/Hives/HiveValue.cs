using System.Buffers.Binary;
using System.Text;

namespace Keel.Core.Hives;

/// <summary>One value of a key: name (empty for the default value), type and the bytes as they are stored.</summary>
public sealed record HiveValue(string Name, HiveValueType Type, byte[] Data)
{
    /// <summary>Text with a zero at its end.</summary>
    public static HiveValue OfText(string name, string text) =>
        new(name, HiveValueType.Text, Encoding.Unicode.GetBytes(text + "\0"));

    /// <summary>A number of 32 bits.</summary>
    public static HiveValue OfNumber(string name, uint number)
    {
        var data = new byte[sizeof(uint)];
        BinaryPrimitives.WriteUInt32LittleEndian(data, number);
        return new HiveValue(name, HiveValueType.Number, data);
    }

    /// <summary>Bytes.</summary>
    public static HiveValue OfBinary(string name, byte[] data) => new(name, HiveValueType.Binary, data);

    /// <summary>Several texts, each with a zero at its end, and one more zero.</summary>
    public static HiveValue OfTextList(string name, IEnumerable<string> items) =>
        new(name, HiveValueType.TextList, Encoding.Unicode.GetBytes(string.Concat(items.Select(item => item + "\0")) + "\0"));

    /// <summary>The text of a text value, up to its ending zero; null for other types.</summary>
    public string? AsText() => Type is HiveValueType.Text or HiveValueType.ExpandableText ? Decode(Data).Split('\0')[0] : null;

    /// <summary>The items of a text list; null for other types.</summary>
    public IReadOnlyList<string>? AsTextList() =>
        Type == HiveValueType.TextList ? Decode(Data).Split('\0', StringSplitOptions.RemoveEmptyEntries) : null;

    /// <summary>A 32-bit number; null for other types or sizes.</summary>
    public uint? AsNumber() =>
        Type == HiveValueType.Number && Data.Length >= sizeof(uint) ? BinaryPrimitives.ReadUInt32LittleEndian(Data) : null;

    private static string Decode(byte[] data) => Encoding.Unicode.GetString(data, 0, data.Length & ~1);
}
