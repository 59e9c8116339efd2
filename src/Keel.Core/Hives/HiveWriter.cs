using System.Runtime.CompilerServices;
using System.Text;
using Keel.Core.Blocks;

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

        var flags = node.Flags | (ascii ? HiveKey.AsciiNameFlag : 0) | (isRoot ? HiveKey.RootFlag | HiveKey.NoDeleteFlag : 0);
        var key = arena.Content(cell);
        key.Put(0, new HiveKeyRecord
        {
            Mark = HiveKeyRecord.UsualMark,
            Flags = (ushort)flags,
            LastWritten = node.LastWritten,
            Parent = isRoot ? 0 : parent,
            SubkeyCount = (uint)children.Count,
            SubkeyList = index,
            VolatileList = HiveKey.NoCell,
            ValueCount = (uint)node.Values.Count,
            ValueList = values,
            Security = security,
            ClassName = className,
            LongestSubkeyName = Longest(node.Children, child => child.Name.Length) * sizeof(char),
            LongestValueName = Longest(node.Values, value => value.Name.Length) * sizeof(char),
            LongestValueData = Longest(node.Values, value => value.Data.Length),
            NameLength = (ushort)name.Length,
            ClassLength = (ushort)node.ClassName.Length
        });
        name.CopyTo(key[HiveKey.NameAt..]);
        return cell;
    }

    private static uint Longest<T>(List<T> items, Func<T, int> length) => items.Count == 0 ? 0 : (uint)items.Max(length);

    private uint WriteValues(HiveNode node)
    {
        if (node.Values.Count == 0) return HiveKey.NoCell;
        var list = arena.Allocate(node.Values.Count * sizeof(uint));
        for (var index = 0; index < node.Values.Count; index++)
        {
            var value = WriteValue(node.Values[index]);
            arena.Content(list).Put(index * sizeof(uint), value);
        }

        return list;
    }

    private uint WriteValue(HiveValue value)
    {
        var nameAt = Unsafe.SizeOf<HiveValueRecord>();
        var (name, ascii) = EncodeName(value.Name);
        var cell = arena.Allocate(nameAt + name.Length);
        var isInline = value.Data.Length <= sizeof(uint);
        var data = isInline ? Inline(value.Data) : WriteData(value.Data);
        var content = arena.Content(cell);
        content.Put(0, new HiveValueRecord
        {
            Mark = HiveValueRecord.UsualMark,
            NameLength = (ushort)name.Length,
            Size = (uint)value.Data.Length | (isInline ? HiveValueRecord.InlineFlag : 0),
            Data = data,
            Type = (uint)value.Type,
            Flags = ascii ? HiveValueRecord.AsciiName : (ushort)0
        });
        name.CopyTo(content[nameAt..]);
        return cell;
    }

    /// <summary>Up to 4 bytes, as they stand in the place of a cell's offset.</summary>
    private static uint Inline(byte[] data)
    {
        Span<byte> place = stackalloc byte[sizeof(uint)];
        place.Clear();
        data.CopyTo(place);
        return BitConverter.ToUInt32(place);
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
            arena.Content(list).Put(piece * sizeof(uint), cell);
        }

        var header = arena.Allocate(Unsafe.SizeOf<HivePiecesRecord>());
        arena.Content(header).Put(0, new HivePiecesRecord
        {
            Mark = HivePiecesRecord.UsualMark,
            Count = (ushort)count,
            List = list
        });
        return header;
    }

    private uint WriteIndex(List<(string Name, uint Cell)> children)
    {
        if (children.Count == 0) return HiveKey.NoCell;
        var leaves = children.Chunk(IndexLimit).Select(WriteLeaf).ToList();
        if (leaves.Count == 1) return leaves[0];
        var headBytes = Unsafe.SizeOf<HiveIndexRecord>();
        var root = arena.Allocate(headBytes + (leaves.Count * sizeof(uint)));
        var content = arena.Content(root);
        content.Put(0, new HiveIndexRecord { Mark = HiveIndexRecord.Root, Count = (ushort)leaves.Count });
        for (var index = 0; index < leaves.Count; index++) content.Put(headBytes + (index * sizeof(uint)), leaves[index]);
        return root;
    }

    private uint WriteLeaf((string Name, uint Cell)[] children)
    {
        int headBytes = Unsafe.SizeOf<HiveIndexRecord>(), entryBytes = Unsafe.SizeOf<HiveIndexEntryRecord>();
        var leaf = arena.Allocate(headBytes + (children.Length * entryBytes));
        var content = arena.Content(leaf);
        var isHashed = minor >= FirstMinorWithHashes;
        content.Put(0, new HiveIndexRecord
        {
            Mark = isHashed ? HiveIndexRecord.Hashed : HiveIndexRecord.Fast,
            Count = (ushort)children.Length
        });
        for (var index = 0; index < children.Length; index++)
        {
            var (name, cell) = children[index];
            content.Put(headBytes + (index * entryBytes), new HiveIndexEntryRecord
            {
                Cell = cell,
                Hint = isHashed ? HiveCells.NameHash(name) : FirstLetters(name)
            });
        }

        return leaf;
    }

    private static uint FirstLetters(string name) =>
        Inline(Encoding.Latin1.GetBytes(name[..Math.Min(sizeof(uint), name.Length)]));

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
            var headBytes = Unsafe.SizeOf<HiveSecurityRecord>();
            var cell = arena.Allocate(headBytes + descriptor.Length);
            descriptor.CopyTo(arena.Content(cell)[headBytes..]);
            known = new SecurityCell(cell, (uint)descriptor.Length);
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
            arena.Content(ring[index].Cell).Put(0, new HiveSecurityRecord
            {
                Mark = HiveSecurityRecord.UsualMark,
                Next = ring[(index + 1) % ring.Count].Cell,
                Previous = ring[(index + ring.Count - 1) % ring.Count].Cell,
                Uses = ring[index].Uses,
                Size = ring[index].DescriptorBytes
            });
        }
    }

    private static (byte[] Bytes, bool Ascii) EncodeName(string name)
    {
        var ascii = name.AsSpan().IndexOfAnyExceptInRange('\0', '\u00ff') < 0;
        return (ascii ? Encoding.Latin1.GetBytes(name) : Encoding.Unicode.GetBytes(name), ascii);
    }

    private sealed class SecurityCell(uint cell, uint descriptorBytes)
    {
        public uint Cell { get; } = cell;

        public uint DescriptorBytes { get; } = descriptorBytes;

        public uint Uses { get; set; }
    }
}
