using System.Buffers.Binary;
using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using System.Text;
using Keel.Core.Blocks;

namespace Keel.Core.Hives;

/// <summary>A key of a hive as it stands in its cell ("nk"); what hangs below is read when asked for.</summary>
public sealed class HiveKey
{
    internal const ushort RootFlag = 0x04, NoDeleteFlag = 0x08, AsciiNameFlag = 0x20;
    internal const ushort KeptFlags = 0xFFFF & ~(RootFlag | AsciiNameFlag);
    internal const uint NoCell = 0xFFFFFFFF;

    /// <summary>Where the name stands in the cell, in bytes.</summary>
    internal static readonly int NameAt = Unsafe.SizeOf<HiveKeyRecord>();

    private readonly Hive hive;
    private readonly HiveKeyRecord record;

    private HiveKey(Hive hive, uint offset, in HiveKeyRecord record, string name)
    {
        this.hive = hive;
        this.record = record;
        Offset = offset;
        Name = name;
    }

    /// <summary>Its name, without its path.</summary>
    public string Name { get; }

    /// <summary>The offset of its cell, which tells keys apart.</summary>
    internal uint Offset { get; }

    /// <summary>When it, or one of its values, was written last: a FILETIME, as it stands.</summary>
    public long LastWritten => record.LastWritten;

    /// <summary>How many keys it says that it has.</summary>
    public int SubkeyCount => (int)Math.Min(record.SubkeyCount, int.MaxValue);

    internal static HiveKey Read(Hive hive, uint offset)
    {
        var content = hive.Cell(offset);
        if (content.Length < NameAt
            || content.At<HiveKeyRecord>(0) is not { Mark: HiveKeyRecord.UsualMark } key)
        {
            throw new HiveDamagedException($"The cell at {offset:x} should be a key and is not.");
        }

        if (key.NameLength > content.Length - NameAt)
            throw new HiveDamagedException($"The name of the key at {offset:x} is longer than its cell.");
        var ascii = (key.Flags & AsciiNameFlag) != 0;
        return new HiveKey(hive, offset, key, DecodeName(content.AsSpan(NameAt, key.NameLength), ascii));
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
    public long? PlaceOfNumber(string name) =>
        CellOf(name) is { } offset && TryValue(offset)?.AsNumber() is not null ? HiveCells.PlaceOfNumber(hive, offset) : null;

    /// <summary>The cell that lists the values.</summary>
    internal uint ValueListCell => record.ValueList;

    /// <summary>The cells of the values, as they are listed.</summary>
    internal IReadOnlyList<uint> ValueCells => MemoryMarshal.Cast<byte, uint>(ValueList()).ToArray();

    /// <summary>The cell of a value; null where there is no such value.</summary>
    internal uint? CellOf(string name)
    {
        var list = ValueList();
        for (var at = 0; at + sizeof(uint) <= list.Length; at += sizeof(uint))
        {
            var offset = BinaryPrimitives.ReadUInt32LittleEndian(list.AsSpan(at));
            if (TryValue(offset) is { } value && value.Name.Equals(name, StringComparison.OrdinalIgnoreCase)) return offset;
        }

        return null;
    }

    /// <summary>The record of a value, as it is stored.</summary>
    internal HiveValueRecord RecordAt(uint offset) => HiveCells.RecordAt(hive, offset);

    internal HiveNode ToNode()
    {
        var node = new HiveNode(Name)
        {
            LastWritten = record.LastWritten,
            Flags = (ushort)(record.Flags & KeptFlags)
        };
        try
        {
            node.Security = hive.Security(record.Security);
            node.ClassName = HiveCells.ReadClassName(hive, record.ClassName, record.ClassLength);
        }
        catch (HiveDamagedException e)
        {
            Note(e);
        }

        node.Values.AddRange(Values());
        return node;
    }

    private IEnumerable<uint> SubkeyOffsets(string? name)
    {
        var list = record.SubkeyList;
        return record.SubkeyCount == 0 || list == NoCell ? [] : HiveCells.SubkeyOffsets(hive, list, name);
    }

    /// <summary>The offsets of the values, as far as they can be listed.</summary>
    private byte[] ValueList()
    {
        var count = record.ValueCount;
        if (count == 0 || record.ValueList == NoCell) return [];
        try
        {
            var list = hive.Cell(record.ValueList);
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
