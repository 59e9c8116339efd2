using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;
using Keel.Core.Blocks;

namespace Keel.Core.Hives;

/// <summary>Reads the cells that hang below a key: indexes, values, big data, security.</summary>
internal static class HiveCells
{
    private static readonly int IndexHeaderBytes = Unsafe.SizeOf<HiveIndexRecord>();
    private static readonly int ValueHeaderBytes = Unsafe.SizeOf<HiveValueRecord>();
    private static readonly int SecurityHeaderBytes = Unsafe.SizeOf<HiveSecurityRecord>();
    private const int ValueLimitBytes = 64 * 1024 * 1024;

    /// <summary>The most bytes in one piece of a value that is kept in pieces ("db").</summary>
    internal const int PieceBytes = 16344;

    /// <summary>
    /// The offsets in a subkey index (lf, lh, li, ri). With a name, entries whose hint rules it out are passed over.
    /// </summary>
    public static IEnumerable<uint> SubkeyOffsets(Hive hive, uint index, string? name) =>
        SubkeyOffsets(hive, index, name, [], depth: 0);

    /// <param name="hive">The hive.</param>
    /// <param name="index">The cell of the index.</param>
    /// <param name="name">The path of the key, for what is told.</param>
    /// <param name="seen">The indexes that were read: none is read twice.</param>
    /// <param name="depth">How many indexes lie above it.</param>
    private static IEnumerable<uint> SubkeyOffsets(Hive hive, uint index, string? name, HashSet<uint> seen, int depth)
    {
        if (!seen.Add(index))
        {
            hive.Note($"The subkey index at {index:x} is listed twice.");
            yield break;
        }

        byte[] cell;
        try
        {
            cell = hive.Cell(index);
        }
        catch (HiveDamagedException e)
        {
            hive.Note(e.Why);
            yield break;
        }

        var head = cell.Length < IndexHeaderBytes ? default : cell.At<HiveIndexRecord>(0);
        if (!head.IsKnown || (head.Mark == HiveIndexRecord.Root && depth > 1))
        {
            hive.Note($"The cell at {index:x} should be a subkey index and is not.");
            yield break;
        }

        var entryBytes = head.Mark is HiveIndexRecord.Fast or HiveIndexRecord.Hashed
            ? Unsafe.SizeOf<HiveIndexEntryRecord>()
            : sizeof(uint);
        var count = Math.Min(head.Count, (cell.Length - IndexHeaderBytes) / entryBytes);
        for (var number = 0; number < count; number++)
        {
            var entry = EntryAt(cell, IndexHeaderBytes + (number * entryBytes), entryBytes);
            if (head.Mark == HiveIndexRecord.Root)
            {
                foreach (var inner in SubkeyOffsets(hive, entry.Cell, name, seen, depth + 1)) yield return inner;
            }
            else if (name is null || head.Mark != HiveIndexRecord.Hashed || entry.Hint == NameHash(name))
            {
                yield return entry.Cell;
            }
        }
    }

    private static HiveIndexEntryRecord EntryAt(ReadOnlySpan<byte> cell, int at, int entryBytes) => entryBytes == sizeof(uint)
        ? new HiveIndexEntryRecord { Cell = cell.At<uint>(at) }
        : cell.At<HiveIndexEntryRecord>(at);

    /// <summary>The hash of a name in an "lh" index.</summary>
    public static uint NameHash(string name)
    {
        uint hash = 0;
        foreach (var letter in name) hash = (hash * 37) + char.ToUpperInvariant(letter);
        return hash;
    }

    public static HiveValue ReadValue(Hive hive, uint offset)
    {
        var (record, cell) = ValueAt(hive, offset);
        if (record.NameLength > cell.Length - ValueHeaderBytes)
            throw new HiveDamagedException($"The name of the value at {offset:x} is longer than its cell.");
        var ascii = (record.Flags & HiveValueRecord.AsciiName) != 0;
        var name = HiveKey.DecodeName(cell.AsSpan(ValueHeaderBytes, record.NameLength), ascii);
        var data = (record.Size & HiveValueRecord.InlineFlag) != 0
            ? BitConverter.GetBytes(record.Data)[..(int)Math.Min(record.Size & ~HiveValueRecord.InlineFlag, sizeof(uint))]
            : ReadData(hive, record.Data, record.Size);
        return new HiveValue(name, (HiveValueType)record.Type, data);
    }

    /// <summary>Where a number of 4 bytes stands in the file: in its own cell, or in one of data.</summary>
    public static long? PlaceOfNumber(Hive hive, uint offset)
    {
        const int cellHeaderBytes = 4;
        var record = ValueAt(hive, offset).Record;
        var dataAt = (int)Marshal.OffsetOf<HiveValueRecord>(nameof(HiveValueRecord.Data));
        if (record.Size == (HiveValueRecord.InlineFlag | sizeof(uint)))
            return HiveHeader.Size + (long)offset + cellHeaderBytes + dataAt;
        return record.Size == sizeof(uint) ? HiveHeader.Size + (long)record.Data + cellHeaderBytes : null;
    }

    /// <summary>The record of the value in a cell.</summary>
    public static HiveValueRecord RecordAt(Hive hive, uint offset) => ValueAt(hive, offset).Record;

    private static (HiveValueRecord Record, byte[] Cell) ValueAt(Hive hive, uint offset)
    {
        var cell = hive.Cell(offset);
        return cell.Length >= ValueHeaderBytes
            && cell.At<HiveValueRecord>(0) is { Mark: HiveValueRecord.UsualMark } record
            ? (record, cell)
            : throw new HiveDamagedException($"The cell at {offset:x} should be a value and is not.");
    }

    public static byte[]? ReadSecurity(Hive hive, uint offset)
    {
        if (offset == HiveKey.NoCell) return null;
        var cell = hive.Cell(offset);
        if (cell.Length < SecurityHeaderBytes
            || cell.At<HiveSecurityRecord>(0) is not { Mark: HiveSecurityRecord.UsualMark } record)
        {
            throw new HiveDamagedException($"The cell at {offset:x} should be a security descriptor and is not.");
        }

        if (record.Size > cell.Length - SecurityHeaderBytes)
            throw new HiveDamagedException($"The security descriptor at {offset:x} is longer than its cell.");
        return cell.AsSpan(SecurityHeaderBytes, (int)record.Size).ToArray();
    }

    public static byte[] ReadClassName(Hive hive, uint offset, int length)
    {
        if (offset == HiveKey.NoCell || length == 0) return [];
        var cell = hive.Cell(offset);
        return cell.AsSpan(0, Math.Min(length, cell.Length)).ToArray();
    }

    private static byte[] ReadData(Hive hive, uint offset, uint size)
    {
        if (size == 0) return [];
        if (size > ValueLimitBytes) throw new HiveDamagedException($"The value data at {offset:x} claims {size} bytes.");
        var cell = hive.Cell(offset);
        if (cell.Length < size
            && size > PieceBytes
            && cell.Length >= Unsafe.SizeOf<HivePiecesRecord>()
            && cell.At<HivePiecesRecord>(0) is { Mark: HivePiecesRecord.UsualMark } pieces)
        {
            return ReadPieces(hive, pieces, size);
        }

        if (cell.Length < size) throw new HiveDamagedException($"The value data at {offset:x} is shorter than its value says.");
        return cell.AsSpan(0, (int)size).ToArray();
    }

    private static byte[] ReadPieces(Hive hive, in HivePiecesRecord pieces, uint size)
    {
        var list = hive.Cell(pieces.List);
        if (list.Length < pieces.Count * sizeof(uint) || pieces.Count < (size + PieceBytes - 1) / PieceBytes)
            throw new HiveDamagedException("A big value has fewer pieces than it needs.");
        var data = new byte[size];
        for (int piece = 0, done = 0; done < data.Length; piece++)
        {
            var part = hive.Cell(list.At<uint>(piece * sizeof(uint)));
            var length = Math.Min(PieceBytes, data.Length - done);
            if (part.Length < length) throw new HiveDamagedException("A piece of a big value is too short.");
            part.AsSpan(0, length).CopyTo(data.AsSpan(done));
            done += length;
        }

        return data;
    }
}
