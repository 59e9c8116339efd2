using System.Buffers.Binary;
using Keel.Core.Blocks;

namespace Keel.Core.Hives;

/// <summary>A registry hive (regf), read cell by cell as it is asked; survives damage by saying what it could not read.</summary>
/// <remarks>Layout as described by the regf specifications of libregf and hivex. Offsets of cells count from the end of the
///     base block.</remarks>
public sealed class Hive
{
    private const int CellHeaderBytes = 4;
    private const int CellLimitBytes = 16 * 1024 * 1024;

    /// <summary>
    /// What may be read of a hive as a whole: many times what is in it, and still an end where lists lead to the same cells over
    /// and over.
    /// </summary>
    private const long UsualBudgetBytes = 256 * 1024 * 1024, BudgetTimes = 16;

    /// <summary>What a cell costs beside its bytes.</summary>
    private const int CellCostBytes = 64;
    private readonly IReadableBlocks bytes;
    private readonly byte[]? memory;
    private readonly List<string> damage = [];
    private readonly Dictionary<uint, byte[]> securities = [];
    private long budget;

    private Hive(IReadableBlocks bytes, HiveHeader header)
    {
        this.bytes = bytes;
        memory = (bytes as MemoryBlocks)?.Bytes;
        Header = header;
        budget = UsualBudgetBytes + (BudgetTimes * bytes.LengthBytes);
    }

    /// <summary>The base block.</summary>
    public HiveHeader Header { get; }

    /// <summary>What was met and could not be read, in words; grows as more is read.</summary>
    public IReadOnlyList<string> Damage => damage;

    /// <summary>True where the file is shorter than its header says.</summary>
    public bool IsTruncated => bytes.LengthBytes < HiveHeader.Size + (long)Header.BinsBytes;

    /// <summary>The length of the file, in bytes.</summary>
    public long LengthBytes => bytes.LengthBytes;

    /// <summary>
    /// What of its bins and cells is broken first, in words; null where all are whole. Everything is read for that.
    /// </summary>
    /// <exception cref="Errors.UnreadableException">It can't be read.</exception>
    public string? FirstBroken() => HiveFrame.FirstBroken(bytes, Header);

    /// <summary>The root key.</summary>
    /// <exception cref="HiveDamagedException">Its cell can't be read.</exception>
    public HiveKey Root => HiveKey.Read(this, Header.RootCell);

    /// <summary>Opens a hive; reads the base block only.</summary>
    /// <exception cref="HiveDamagedException">It has no base block.</exception>
    public static Hive Open(IReadableBlocks bytes)
    {
        var block = bytes.TryRead(0, HiveHeader.Size)
            ?? throw new HiveDamagedException(
                $"It is {bytes.LengthBytes} bytes long; a hive has at least {HiveHeader.Size * 2}.");
        var header = HiveHeader.TryRead(block) ?? throw new HiveDamagedException("It does not begin with the mark of a hive.");
        return new Hive(bytes, header);
    }

    /// <summary>Opens a hive that is in memory.</summary>
    public static Hive Open(byte[] bytes) => Open(new MemoryBlocks(bytes));

    /// <summary>A hive without a trusted base block, for looking at single cells.</summary>
    internal static Hive Salvage(IReadableBlocks bytes, uint binsBytes) =>
        new(bytes, new HiveHeader(0, 0, 0, 1, 3, 0, binsBytes, ChecksumMatches: false));

    /// <summary>A key with everything below it.</summary>
    internal HiveNode ReadTree(HiveKey key) => ReadTree(key, [], depth: 0);

    /// <summary>Everything below the root, in memory; what can't be read is left out and told in <see cref="Damage"/>.</summary>
    public HiveNode ReadTree()
    {
        var seen = new HashSet<uint>();
        return ReadTree(Root, seen, depth: 0);
    }

    /// <summary>The contents of an allocated cell.</summary>
    /// <exception cref="HiveDamagedException">The offset or the size points outside, or the cell is free.</exception>
    internal byte[] Cell(uint offset, int limitBytes = CellLimitBytes)
    {
        if (IsExhausted) throw new HiveDamagedException("Its lists lead to the same cells over and over.");
        var cell = ReadCell(offset, limitBytes);
        budget -= cell.Length + CellCostBytes;
        return cell;
    }

    /// <summary>Far more was read than the hive can hold: nothing more is.</summary>
    internal bool IsExhausted => budget <= 0;

    private byte[] ReadCell(uint offset, int limitBytes)
    {
        var at = HiveHeader.Size + (long)offset;
        if (memory is not null) return MemoryCell(offset, at, limitBytes);
        Span<byte> header = stackalloc byte[CellHeaderBytes];
        if (offset % 8 != 0 || offset >= Header.BinsBytes || at + CellHeaderBytes > bytes.LengthBytes)
            throw new HiveDamagedException($"A cell should stand at {offset:x}, outside the file or between cells.");
        bytes.Read(at, header);
        var size = -(long)BinaryPrimitives.ReadInt32LittleEndian(header);
        if (size < 8 || size > CellLimitBytes || offset + size > Header.BinsBytes)
            throw new HiveDamagedException($"The cell at {offset:x} is free or says an impossible size.");
        return bytes.TryRead(at + CellHeaderBytes, (int)Math.Min(size - CellHeaderBytes, limitBytes))
            ?? throw new HiveDamagedException($"The cell at {offset:x} ends beyond the file.");
    }

    /// <summary>The same from a hive that is in memory already, without going through blocks.</summary>
    private byte[] MemoryCell(uint offset, long at, int limitBytes)
    {
        if (offset % 8 != 0 || offset >= Header.BinsBytes || at + CellHeaderBytes > memory!.Length)
            throw new HiveDamagedException($"A cell should stand at {offset:x}, outside the file or between cells.");
        var size = -(long)BinaryPrimitives.ReadInt32LittleEndian(memory.AsSpan((int)at));
        if (size < 8 || size > CellLimitBytes || offset + size > Header.BinsBytes)
            throw new HiveDamagedException($"The cell at {offset:x} is free or says an impossible size.");
        return at + size <= memory.Length
            ? memory.AsSpan((int)at + CellHeaderBytes, (int)Math.Min(size - CellHeaderBytes, limitBytes)).ToArray()
            : throw new HiveDamagedException($"The cell at {offset:x} ends beyond the file.");
    }

    /// <summary>A security descriptor; keys share few of them, so each is read once.</summary>
    internal byte[]? Security(uint offset)
    {
        if (securities.TryGetValue(offset, out var known)) return known;
        if (HiveCells.ReadSecurity(this, offset) is not { } descriptor) return null;
        securities.Add(offset, descriptor);
        return descriptor;
    }

    internal void Note(string what)
    {
        if (damage.Count < 100) damage.Add(what);
    }

    private HiveNode ReadTree(HiveKey key, HashSet<uint> seen, int depth)
    {
        const int depthLimit = 512;
        var node = key.ToNode();
        foreach (var child in key.Subkeys())
        {
            if (depth >= depthLimit || !seen.Add(child.Offset))
            {
                Note($"The key at {child.Offset:x} is listed twice or too deep.");
                continue;
            }

            node.Children.Add(ReadTree(child, seen, depth + 1));
        }

        return node;
    }
}
