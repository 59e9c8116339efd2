using System.Buffers.Binary;
using System.Text;

namespace Keel.Core.Hives;

/// <summary>A key of a hive as it stands in its cell ("nk"); what hangs below is read when asked for.</summary>
public sealed class HiveKey
{
    internal const ushort RootFlag = 0x04, AsciiNameFlag = 0x20, KeptFlags = 0xFFFF & ~(RootFlag | AsciiNameFlag);
    internal const uint NoCell = 0xFFFFFFFF;

    internal const int FlagsAt =
        2, WrittenAt = 4, ParentAt = 0x10, SubkeyCountAt = 0x14, SubkeyListAt = 0x1C, VolatileListAt = 0x20;

    internal const int ValueCountAt =
        0x24, ValueListAt = 0x28, SecurityAt = 0x2C, ClassAt = 0x30, NameLengthAt = 0x48, ClassLengthAt = 0x4A, NameAt = 0x4C;

    internal const int LongestSubkeyNameAt = 0x34, LongestValueNameAt = 0x3C, LongestValueDataAt = 0x40;
    private readonly Hive hive;
    private readonly byte[] cell;

    private HiveKey(Hive hive, uint offset, byte[] cell, string name)
    {
        this.hive = hive;
        this.cell = cell;
        Offset = offset;
        Name = name;
    }

    /// <summary>Its name, without its path.</summary>
    public string Name { get; }

    /// <summary>The offset of its cell, which tells keys apart.</summary>
    internal uint Offset { get; }

    /// <summary>How many keys it says that it has.</summary>
    public int SubkeyCount => (int)Math.Min(Number(SubkeyCountAt), int.MaxValue);

    internal static HiveKey Read(Hive hive, uint offset)
    {
        var content = hive.Cell(offset);
        if (content.Length < NameAt || content[0] != 'n' || content[1] != 'k')
            throw new HiveDamagedException($"The cell at {offset:x} should be a key and is not.");
        var length = BinaryPrimitives.ReadUInt16LittleEndian(content.AsSpan(NameLengthAt));
        if (length > content.Length - NameAt)
            throw new HiveDamagedException($"The name of the key at {offset:x} is longer than its cell.");
        var ascii = (BinaryPrimitives.ReadUInt16LittleEndian(content.AsSpan(FlagsAt)) & AsciiNameFlag) != 0;
        return new HiveKey(hive, offset, content, DecodeName(content.AsSpan(NameAt, length), ascii));
    }

    internal static string DecodeName(ReadOnlySpan<byte> name, bool ascii) =>
        ascii ? Encoding.Latin1.GetString(name) : Encoding.Unicode.GetString(name);

    /// <summary>The subkeys that can be read, in their stored order.</summary>
    public IEnumerable<HiveKey> Subkeys()
    {
        var seen = new HashSet<uint>();
        foreach (var offset in SubkeyOffsets(name: null))
        {
            if (!seen.Add(offset)) hive.Note($"The key at {offset:x} is listed twice.");
            else if (TryKey(offset) is { } key) yield return key;
        }
    }

    /// <summary>
    /// A key by its path from here, names without case, parted by backslashes; null where it is missing or unreadable.
    /// </summary>
    public HiveKey? Find(string path)
    {
        var key = this;
        foreach (var name in path.Split('\\', StringSplitOptions.RemoveEmptyEntries))
        {
            key = key
                .SubkeyOffsets(name)
                .Select(key.TryKey)
                .OfType<HiveKey>()
                .FirstOrDefault(child => child.Name.Equals(name, StringComparison.OrdinalIgnoreCase));
            if (key is null) return null;
        }

        return key;
    }

    /// <summary>The values that can be read.</summary>
    public IEnumerable<HiveValue> Values()
    {
        var list = ValueList();
        for (var at = 0; at + sizeof(uint) <= list.Length; at += sizeof(uint))
        {
            if (TryValue(BinaryPrimitives.ReadUInt32LittleEndian(list.AsSpan(at))) is { } value) yield return value;
        }
    }

    /// <summary>A value by its name, in any case; null where there is none.</summary>
    public HiveValue? Value(string name) =>
        Values().FirstOrDefault(value => value.Name.Equals(name, StringComparison.OrdinalIgnoreCase));

    /// <summary>
    /// Where the 4 bytes of a number stand in the hive's file, so that they can be changed in place; null where there is no such
    /// number.
    /// </summary>
    public long? PlaceOfNumber(string name)
    {
        var list = ValueList();
        for (var at = 0; at + sizeof(uint) <= list.Length; at += sizeof(uint))
        {
            var offset = BinaryPrimitives.ReadUInt32LittleEndian(list.AsSpan(at));
            if (TryValue(offset) is { } value && value.Name.Equals(name, StringComparison.OrdinalIgnoreCase))
                return value.AsNumber() is null ? null : HiveCells.PlaceOfNumber(hive, offset);
        }

        return null;
    }

    internal HiveNode ToNode()
    {
        var node = new HiveNode(Name)
        {
            LastWritten = BinaryPrimitives.ReadInt64LittleEndian(cell.AsSpan(WrittenAt)),
            Flags = (ushort)(BinaryPrimitives.ReadUInt16LittleEndian(cell.AsSpan(FlagsAt)) & KeptFlags)
        };
        try
        {
            node.Security = hive.Security(Number(SecurityAt));
            node.ClassName = HiveCells.ReadClassName(
                hive,
                Number(ClassAt),
                BinaryPrimitives.ReadUInt16LittleEndian(cell.AsSpan(ClassLengthAt)));
        }
        catch (HiveDamagedException e)
        {
            Note(e);
        }

        node.Values.AddRange(Values());
        return node;
    }

    private uint Number(int at) => BinaryPrimitives.ReadUInt32LittleEndian(cell.AsSpan(at));

    private IEnumerable<uint> SubkeyOffsets(string? name)
    {
        var list = Number(SubkeyListAt);
        return Number(SubkeyCountAt) == 0 || list == NoCell ? [] : HiveCells.SubkeyOffsets(hive, list, name);
    }

    /// <summary>The offsets of the values, as far as they can be listed.</summary>
    private byte[] ValueList()
    {
        var count = Number(ValueCountAt);
        if (count == 0 || Number(ValueListAt) == NoCell) return [];
        try
        {
            var list = hive.Cell(Number(ValueListAt));
            var readable = (int)Math.Min(count, list.Length / sizeof(uint));
            if (readable < count) hive.Note($"The key {Name} should have {count} values; only {readable} can be listed.");
            return list[..(readable * sizeof(uint))];
        }
        catch (HiveDamagedException e)
        {
            Note(e);
            return [];
        }
    }

    private HiveKey? TryKey(uint offset)
    {
        try
        {
            return Read(hive, offset);
        }
        catch (HiveDamagedException e)
        {
            Note(e);
            return null;
        }
    }

    private HiveValue? TryValue(uint offset)
    {
        try
        {
            return HiveCells.ReadValue(hive, offset);
        }
        catch (HiveDamagedException e)
        {
            Note(e);
            return null;
        }
    }

    private void Note(HiveDamagedException e) => hive.Note($"Below the key {Name}: {e.Why}");
}
