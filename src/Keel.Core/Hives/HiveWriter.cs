using System.Buffers.Binary;
using System.Text;

namespace Keel.Core.Hives;

/// <summary>Writes a tree of keys as a compact, well-formed hive.</summary>
/// <remarks>Version 1.3 has "lf" indexes and values in one piece; from 1.4 big values are kept in pieces, from 1.5 indexes
///     are "lh".</remarks>
public sealed class HiveWriter
{
    private const int IndexLimit = 500;
    private const uint FirstMinorWithPieces = 4, FirstMinorWithHashes = 5;
    private readonly CellArena arena = new();
    private readonly Dictionary<string, SecurityCell> securities = [];
    private readonly uint minor;
    private byte[]? lastDescriptor;
    private SecurityCell? lastSecurity;

    private HiveWriter(uint minor) => this.minor = minor;

    /// <summary>The bytes of a hive with this root.</summary>
    /// <param name="root">The root key.</param>
    /// <param name="minor">The minor version, 3 to 6.</param>
    /// <param name="sequence">Both sequence numbers; raise it when a file is replaced.</param>
    public static byte[] Write(HiveNode root, uint minor = 3, uint sequence = 1)
    {
        var writer = new HiveWriter(minor);
        var rootCell = writer.WriteKey(root, HiveKey.NoCell, isRoot: true);
        writer.LinkSecurities();
        var bins = writer.arena.Finish();
        var file = new byte[HiveHeader.Size + bins.Length];
        bins.CopyTo(file.AsSpan(HiveHeader.Size));
        new HiveHeader(
            sequence,
            sequence,
            root.LastWritten,
            1,
            minor,
            rootCell,
            (uint)bins.Length,
            ChecksumMatches: true).Write(file);
        return file;
    }

    private uint WriteKey(HiveNode node, uint parent, bool isRoot)
    {
        var (name, ascii) = EncodeName(node.Name);
        var cell = arena.Allocate(HiveKey.NameAt + name.Length);
        var security = SecurityOf(node.Security ?? UsualSecurity.Descriptor);
        var values = WriteValues(node);
        var className = node.ClassName.Length == 0 ? HiveKey.NoCell : arena.Store(node.ClassName);
        var children = node.Children.Count == 0
            ? []
            : node.Children.OrderBy(child => child.Name, StringComparer.OrdinalIgnoreCase)
            .Select(child => (child.Name, Cell: WriteKey(child, cell, isRoot: false)))
            .ToList();
        var index = WriteIndex(children);

        var key = arena.Content(cell);
        "nk"u8.CopyTo(key);
        var flags = node.Flags | (ascii ? HiveKey.AsciiNameFlag : 0) | (isRoot ? HiveKey.RootFlag | 0x08 : 0);
        BinaryPrimitives.WriteUInt16LittleEndian(key[HiveKey.FlagsAt..], (ushort)flags);
        BinaryPrimitives.WriteInt64LittleEndian(key[HiveKey.WrittenAt..], node.LastWritten);
        Put(key, HiveKey.ParentAt, isRoot ? 0 : parent);
        Put(key, HiveKey.SubkeyCountAt, (uint)children.Count);
        Put(key, HiveKey.SubkeyListAt, index);
        Put(key, HiveKey.VolatileListAt, HiveKey.NoCell);
        Put(key, HiveKey.ValueCountAt, (uint)node.Values.Count);
        Put(key, HiveKey.ValueListAt, values);
        Put(key, HiveKey.SecurityAt, security);
        Put(key, HiveKey.ClassAt, className);
        Put(
            key,
            HiveKey.LongestSubkeyNameAt,
            (uint)(node.Children.Count == 0 ? 0 : node.Children.Max(child => child.Name.Length) * 2));
        Put(
            key,
            HiveKey.LongestValueNameAt,
            (uint)(node.Values.Count == 0 ? 0 : node.Values.Max(value => value.Name.Length) * 2));
        Put(key, HiveKey.LongestValueDataAt, (uint)(node.Values.Count == 0 ? 0 : node.Values.Max(value => value.Data.Length)));
        BinaryPrimitives.WriteUInt16LittleEndian(key[HiveKey.NameLengthAt..], (ushort)name.Length);
        BinaryPrimitives.WriteUInt16LittleEndian(key[HiveKey.ClassLengthAt..], (ushort)node.ClassName.Length);
        name.CopyTo(key[HiveKey.NameAt..]);
        return cell;
    }

    private uint WriteValues(HiveNode node)
    {
        if (node.Values.Count == 0) return HiveKey.NoCell;
        var list = arena.Allocate(node.Values.Count * sizeof(uint));
        for (var index = 0; index < node.Values.Count; index++)
        {
            var value = WriteValue(node.Values[index]);
            Put(arena.Content(list), index * sizeof(uint), value);
        }

        return list;
    }

    private uint WriteValue(HiveValue value)
    {
        const int nameAt = 0x14;
        const uint inline = 0x80000000;
        var (name, ascii) = EncodeName(value.Name);
        var cell = arena.Allocate(nameAt + name.Length);
        var isInline = value.Data.Length <= sizeof(uint);
        var data = isInline ? 0 : WriteData(value.Data);
        var content = arena.Content(cell);
        "vk"u8.CopyTo(content);
        BinaryPrimitives.WriteUInt16LittleEndian(content[2..], (ushort)name.Length);
        Put(content, 4, (uint)value.Data.Length | (isInline ? inline : 0));
        Put(content, 8, data);
        if (isInline) value.Data.CopyTo(content[8..]);
        Put(content, 0xC, (uint)value.Type);
        BinaryPrimitives.WriteUInt16LittleEndian(content[0x10..], ascii ? (ushort)1 : (ushort)0);
        name.CopyTo(content[nameAt..]);
        return cell;
    }

    private uint WriteData(byte[] data)
    {
        if (data.Length <= HiveCells.PieceBytes || minor < FirstMinorWithPieces) return arena.Store(data);
        var count = (data.Length + HiveCells.PieceBytes - 1) / HiveCells.PieceBytes;
        var list = arena.Allocate(count * sizeof(uint));
        for (var piece = 0; piece < count; piece++)
        {
            var start = piece * HiveCells.PieceBytes;
            var cell = arena.Store(data.AsSpan(start, Math.Min(HiveCells.PieceBytes, data.Length - start)));
            Put(arena.Content(list), piece * sizeof(uint), cell);
        }

        var header = arena.Allocate(8);
        var content = arena.Content(header);
        "db"u8.CopyTo(content);
        BinaryPrimitives.WriteUInt16LittleEndian(content[2..], (ushort)count);
        Put(content, 4, list);
        return header;
    }

    private uint WriteIndex(List<(string Name, uint Cell)> children)
    {
        if (children.Count == 0) return HiveKey.NoCell;
        var leaves = children.Chunk(IndexLimit).Select(WriteLeaf).ToList();
        if (leaves.Count == 1) return leaves[0];
        var root = arena.Allocate(4 + (leaves.Count * sizeof(uint)));
        var content = arena.Content(root);
        "ri"u8.CopyTo(content);
        BinaryPrimitives.WriteUInt16LittleEndian(content[2..], (ushort)leaves.Count);
        for (var index = 0; index < leaves.Count; index++) Put(content, 4 + (index * sizeof(uint)), leaves[index]);
        return root;
    }

    private uint WriteLeaf((string Name, uint Cell)[] children)
    {
        var leaf = arena.Allocate(4 + (children.Length * 8));
        var content = arena.Content(leaf);
        var hashed = minor >= FirstMinorWithHashes;
        (hashed ? "lh"u8 : "lf"u8).CopyTo(content);
        BinaryPrimitives.WriteUInt16LittleEndian(content[2..], (ushort)children.Length);
        for (var index = 0; index < children.Length; index++)
        {
            var entry = content[(4 + (index * 8))..];
            Put(entry, 0, children[index].Cell);
            if (hashed)
                Put(entry, 4, HiveCells.NameHash(children[index].Name));
            else
                Encoding.Latin1.GetBytes(children[index].Name.AsSpan(0, Math.Min(4, children[index].Name.Length)), entry[4..]);
        }

        return leaf;
    }

    private uint SecurityOf(byte[] descriptor)
    {
        if (ReferenceEquals(descriptor, lastDescriptor))
        {
            lastSecurity!.Uses++;
            return lastSecurity.Cell;
        }

        var id = Convert.ToHexString(descriptor);
        if (!securities.TryGetValue(id, out var known))
        {
            var cell = arena.Allocate(0x14 + descriptor.Length);
            var content = arena.Content(cell);
            "sk"u8.CopyTo(content);
            Put(content, 0x10, (uint)descriptor.Length);
            descriptor.CopyTo(content[0x14..]);
            known = new SecurityCell(cell);
            securities.Add(id, known);
        }

        known.Uses++;
        (lastDescriptor, lastSecurity) = (descriptor, known);
        return known.Cell;
    }

    /// <summary>Security cells stand in a ring, each with the number of keys that use it.</summary>
    private void LinkSecurities()
    {
        var ring = securities.Values.ToList();
        for (var index = 0; index < ring.Count; index++)
        {
            var content = arena.Content(ring[index].Cell);
            Put(content, 4, ring[(index + 1) % ring.Count].Cell);
            Put(content, 8, ring[(index + ring.Count - 1) % ring.Count].Cell);
            Put(content, 0xC, ring[index].Uses);
        }
    }

    private static (byte[] Bytes, bool Ascii) EncodeName(string name)
    {
        var ascii = name.AsSpan().IndexOfAnyExceptInRange('\0', '\u00ff') < 0;
        return (ascii ? Encoding.Latin1.GetBytes(name) : Encoding.Unicode.GetBytes(name), ascii);
    }

    private static void Put(Span<byte> content, int at, uint number) =>
        BinaryPrimitives.WriteUInt32LittleEndian(content[at..], number);

    private sealed class SecurityCell(uint cell)
    {
        public uint Cell { get; } = cell;

        public uint Uses { get; set; }
    }
}
