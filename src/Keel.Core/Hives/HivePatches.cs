using System.Buffers.Binary;
using System.Runtime.InteropServices;
using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Hives;

/// <summary>
/// Changes of single values in place: a large hive is not written anew for one of them, and everything else keeps its bytes.
/// </summary>
public static class HivePatches
{
    private const int CellHeaderBytes = sizeof(int), CellUnit = 8, LeastCell = 8, PieceLimit = 16344, BinLimit = 64 * 1024 * 1024;
    private static readonly int TypeAt = (int)Marshal.OffsetOf<HiveValueRecord>(nameof(HiveValueRecord.Type));
    private static readonly int SizeAt = (int)Marshal.OffsetOf<HiveValueRecord>(nameof(HiveValueRecord.Size));
    private static readonly int CountAt = (int)Marshal.OffsetOf<HiveKeyRecord>(nameof(HiveKeyRecord.ValueCount));
    private static readonly int ListAt = (int)Marshal.OffsetOf<HiveKeyRecord>(nameof(HiveKeyRecord.ValueList));
    private static readonly int BinHeaderBytes = Marshal.SizeOf<HiveBinRecord>();

    /// <summary>Gives a value another type; its data stay.</summary>
    /// <returns>What is to be written; nothing where there is no such value.</returns>
    public static IReadOnlyList<HivePatch> SetType(HiveKey key, string name, uint type) =>
        key.CellOf(name) is { } cell ? [new HivePatch(PlaceOf(cell) + TypeAt, BitConverter.GetBytes(type))] : [];

    /// <summary>Gives a value other data of the same type: in its place, or in a free cell of the hive.</summary>
    /// <param name="file">The hive's file.</param>
    /// <param name="key">The key.</param>
    /// <param name="name">The value.</param>
    /// <param name="data">Its data.</param>
    /// <returns>What is to be written; nothing where there is no such value.</returns>
    /// <exception cref="RefusedException">There is no room in the hive.</exception>
    public static IReadOnlyList<HivePatch> SetData(IReadableBlocks file, HiveKey key, string name, byte[] data)
    {
        if (key.CellOf(name) is not { } cell) return [];
        if (data.Length is <= sizeof(uint) or > PieceLimit) throw new ArgumentException("It takes another form.", nameof(data));
        var record = key.RecordAt(cell);
        var size = new HivePatch(PlaceOf(cell) + SizeAt, BitConverter.GetBytes((uint)data.Length));
        var isInline = (record.Size & HiveValueRecord.InlineFlag) != 0;
        if (!isInline && RoomAt(file, record.Data) is var room && room >= data.Length)
            return [new HivePatch(PlaceOf(record.Data), [.. data, .. new byte[room - data.Length]]), size];

        var free = FreeCell(file, Aligned(data.Length + CellHeaderBytes));
        var dataPlace = BitConverter.GetBytes((uint)(free.At - HiveHeader.Size));
        return
        [
            .. Occupy(free, data),
            new HivePatch(PlaceOf(cell) + SizeAt + sizeof(uint), dataPlace),
            size
        ];
    }

    /// <summary>Takes a value out of a key: its list closes the gap, and its cells are free.</summary>
    /// <param name="file">The hive's file.</param>
    /// <param name="key">The key.</param>
    /// <param name="name">The value.</param>
    /// <returns>What is to be written; nothing where there is no such value.</returns>
    public static IReadOnlyList<HivePatch> Remove(IReadableBlocks file, HiveKey key, string name)
    {
        if (key.CellOf(name) is not { } cell) return [];
        var rest = key.ValueCells.Where(other => other != cell).ToArray();
        var record = key.RecordAt(cell);
        var isInline = (record.Size & HiveValueRecord.InlineFlag) != 0;
        List<HivePatch> patches =
        [
            new HivePatch(PlaceOf(key.Offset) + CountAt, BitConverter.GetBytes((uint)rest.Length)),
            Freed(file, cell),
            .. isInline || record.Size is 0 or > PieceLimit ? [] : (HivePatch[])[Freed(file, record.Data)]
        ];
        if (rest.Length > 0)
        {
            patches.Add(new HivePatch(PlaceOf(key.ValueListCell), [.. rest.SelectMany(BitConverter.GetBytes)]));
            return patches;
        }

        patches.Add(new HivePatch(PlaceOf(key.Offset) + ListAt, BitConverter.GetBytes(HiveKey.NoCell)));
        patches.Add(Freed(file, key.ValueListCell));
        return patches;
    }

    /// <summary>A cell that is in use has a negative size, a free one the same without its sign.</summary>
    private static HivePatch Freed(IReadableBlocks file, uint cell)
    {
        var at = HiveHeader.Size + (long)cell;
        var size = BinaryPrimitives.ReadInt32LittleEndian(file.ReadBytes(at, CellHeaderBytes));
        return new HivePatch(at, BitConverter.GetBytes(Math.Abs(size)));
    }

    /// <summary>The file's place of what is in a cell.</summary>
    private static long PlaceOf(uint cell) => HiveHeader.Size + (long)cell + CellHeaderBytes;

    private static int Aligned(int bytes) => (bytes + CellUnit - 1) / CellUnit * CellUnit;

    private static int RoomAt(IReadableBlocks file, uint cell)
    {
        var size = BinaryPrimitives.ReadInt32LittleEndian(file.ReadBytes(HiveHeader.Size + (long)cell, CellHeaderBytes));
        return size is < 0 and > -BinLimit ? -size - CellHeaderBytes : 0;
    }

    /// <summary>Takes the beginning of a free cell, and leaves its rest free.</summary>
    private static IEnumerable<HivePatch> Occupy((long At, int Size) free, byte[] data)
    {
        var taken = Aligned(data.Length + CellHeaderBytes);
        if (free.Size - taken < LeastCell) taken = free.Size;
        else yield return new HivePatch(free.At + taken, BitConverter.GetBytes(free.Size - taken));
        yield return new HivePatch(free.At, [.. BitConverter.GetBytes(-taken), .. data]);
    }

    /// <summary>The first free cell of at least that size, in the order of the file.</summary>
    private static (long At, int Size) FreeCell(IReadableBlocks file, int size)
    {
        var header = HiveHeader.TryRead(file.ReadBytes(0, HiveHeader.Size));
        var end = Math.Min(file.LengthBytes, HiveHeader.Size + (long)(header?.BinsBytes ?? 0));
        for (long at = HiveHeader.Size; at + BinHeaderBytes <= end;)
        {
            var bin = file.ReadBytes(at, BinHeaderBytes).At<HiveBinRecord>(0);
            if (bin.Mark != HiveBinRecord.UsualMark || bin.Size is < HiveHeader.Size or > BinLimit || bin.Size > end - at) break;
            if (FreeIn(file.ReadBytes(at, bin.Size), size) is { } found) return (at + found.At, found.Size);
            at += bin.Size;
        }

        throw new RefusedException(
            "Nothing was written.",
            $"The hive has no free room of {size} bytes, and its file is not made longer here.",
            "Let Windows write the setting itself, once it starts.");
    }

    private static (int At, int Size)? FreeIn(ReadOnlySpan<byte> bin, int wanted)
    {
        for (var at = BinHeaderBytes; at + CellHeaderBytes <= bin.Length;)
        {
            var size = BinaryPrimitives.ReadInt32LittleEndian(bin[at..]);
            var length = Math.Abs((long)size);
            if (length < LeastCell || length % CellUnit != 0 || length > bin.Length - at) return null;
            if (size >= wanted) return (at, size);
            at += (int)length;
        }

        return null;
    }
}
