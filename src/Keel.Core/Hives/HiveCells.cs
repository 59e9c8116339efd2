using System.Buffers.Binary;

namespace Keel.Core.Hives;

/// <summary>Reads the cells that hang below a key: indexes, values, big data, security.</summary>
internal static class HiveCells
{
    private const int IndexHeaderBytes = 4;
    private const int ValueHeaderBytes = 0x14;
    private const uint InlineFlag = 0x80000000;
    private const ushort AsciiValueName = 1;
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

        var kind = (char)cell[0] + "" + (char)cell[1];
        var entryBytes = kind is "lf" or "lh" ? 8 : 4;
        var count = Math.Min(
            BinaryPrimitives.ReadUInt16LittleEndian(cell.AsSpan(2)),
            (cell.Length - IndexHeaderBytes) / entryBytes);
        if (kind is not ("lf" or "lh" or "li" or "ri") || (kind == "ri" && depth > 1))
        {
            hive.Note($"The cell at {index:x} should be a subkey index and is not.");
            yield break;
        }

        for (var number = 0; number < count; number++)
        {
            var at = IndexHeaderBytes + (number * entryBytes);
            var offset = BinaryPrimitives.ReadUInt32LittleEndian(cell.AsSpan(at));
            if (kind == "ri")
            {
                foreach (var inner in SubkeyOffsets(hive, offset, name, seen, depth + 1)) yield return inner;
            }
            else if (name is null
                || kind != "lh"
                || BinaryPrimitives.ReadUInt32LittleEndian(cell.AsSpan(at + 4)) == NameHash(name))
            {
                yield return offset;
            }
        }
    }

    /// <summary>The hash of a name in an "lh" index.</summary>
    public static uint NameHash(string name)
    {
        uint hash = 0;
        foreach (var letter in name) hash = (hash * 37) + char.ToUpperInvariant(letter);
        return hash;
    }

    public static HiveValue ReadValue(Hive hive, uint offset)
    {
        var cell = hive.Cell(offset);
        if (cell.Length < ValueHeaderBytes || cell[0] != 'v' || cell[1] != 'k')
            throw new HiveDamagedException($"The cell at {offset:x} should be a value and is not.");
        var nameLength = BinaryPrimitives.ReadUInt16LittleEndian(cell.AsSpan(2));
        if (nameLength > cell.Length - ValueHeaderBytes)
            throw new HiveDamagedException($"The name of the value at {offset:x} is longer than its cell.");
        var ascii = (BinaryPrimitives.ReadUInt16LittleEndian(cell.AsSpan(0x10)) & AsciiValueName) != 0;
        var name = HiveKey.DecodeName(cell.AsSpan(ValueHeaderBytes, nameLength), ascii);
        var size = BinaryPrimitives.ReadUInt32LittleEndian(cell.AsSpan(4));
        var type = (HiveValueType)BinaryPrimitives.ReadUInt32LittleEndian(cell.AsSpan(0xC));
        var data = (size & InlineFlag) != 0
            ? cell.AsSpan(8, (int)Math.Min(size & ~InlineFlag, 4)).ToArray()
            : ReadData(hive, BinaryPrimitives.ReadUInt32LittleEndian(cell.AsSpan(8)), size);
        return new HiveValue(name, type, data);
    }

    /// <summary>Where a number of 4 bytes stands in the file: in its own cell, or in one of data.</summary>
    public static long? PlaceOfNumber(Hive hive, uint offset)
    {
        const int cellHeaderBytes = 4, dataAt = 8;
        var cell = hive.Cell(offset);
        var size = BinaryPrimitives.ReadUInt32LittleEndian(cell.AsSpan(4));
        if (size == (InlineFlag | sizeof(uint))) return HiveHeader.Size + (long)offset + cellHeaderBytes + dataAt;
        return size == sizeof(uint)
            ? HiveHeader.Size + (long)BinaryPrimitives.ReadUInt32LittleEndian(cell.AsSpan(dataAt)) + cellHeaderBytes
            : null;
    }

    public static byte[]? ReadSecurity(Hive hive, uint offset)
    {
        if (offset == HiveKey.NoCell) return null;
        var cell = hive.Cell(offset);
        if (cell.Length < 0x14 || cell[0] != 's' || cell[1] != 'k')
            throw new HiveDamagedException($"The cell at {offset:x} should be a security descriptor and is not.");
        var size = BinaryPrimitives.ReadUInt32LittleEndian(cell.AsSpan(0x10));
        if (size > cell.Length - 0x14)
            throw new HiveDamagedException($"The security descriptor at {offset:x} is longer than its cell.");
        return cell.AsSpan(0x14, (int)size).ToArray();
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
        if (cell.Length < size && size > PieceBytes && cell.Length >= 8 && cell[0] == 'd' && cell[1] == 'b')
            return ReadPieces(hive, cell, size);
        if (cell.Length < size) throw new HiveDamagedException($"The value data at {offset:x} is shorter than its value says.");
        return cell.AsSpan(0, (int)size).ToArray();
    }

    private static byte[] ReadPieces(Hive hive, byte[] header, uint size)
    {
        var count = BinaryPrimitives.ReadUInt16LittleEndian(header.AsSpan(2));
        var list = hive.Cell(BinaryPrimitives.ReadUInt32LittleEndian(header.AsSpan(4)));
        if (list.Length < count * sizeof(uint) || count < (size + PieceBytes - 1) / PieceBytes)
            throw new HiveDamagedException("A big value has fewer pieces than it needs.");
        var data = new byte[size];
        for (int piece = 0, done = 0; done < data.Length; piece++)
        {
            var part = hive.Cell(BinaryPrimitives.ReadUInt32LittleEndian(list.AsSpan(piece * sizeof(uint))));
            var length = Math.Min(PieceBytes, data.Length - done);
            if (part.Length < length) throw new HiveDamagedException("A piece of a big value is too short.");
            part.AsSpan(0, length).CopyTo(data.AsSpan(done));
            done += length;
        }

        return data;
    }
}
