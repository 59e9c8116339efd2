using System.Buffers.Binary;

namespace Keel.Core.Layout;

/// <summary>The first sector of a disk: boot code, disk signature, four slots, mark.</summary>
/// <remarks>Works on its own copy of the 512 bytes; <see cref="ToBytes"/> gives them back, untouched where nothing was
///     set.</remarks>
public sealed class MasterBootRecord
{
    /// <summary>The size of the sector, in bytes.</summary>
    public const int Size = 512;

    /// <summary>How many bytes there are for code.</summary>
    public const int CodeBytes = 0x1B8;

    /// <summary>How many slots the table has.</summary>
    public const int SlotCount = 4;
    private const int SignatureAt = 0x1B8, SlotsAt = 0x1BE, MarkAt = 0x1FE;
    private readonly byte[] bytes;

    /// <summary>Reads from the first 512 bytes of a disk.</summary>
    public MasterBootRecord(ReadOnlySpan<byte> sector) => bytes = sector[..Size].ToArray();

    /// <summary>The boot code, 440 bytes.</summary>
    public ReadOnlySpan<byte> Code => bytes.AsSpan(0, CodeBytes);

    /// <summary>The disk signature, by which a store on an MBR disk names the disk.</summary>
    public uint Signature
    {
        get => BinaryPrimitives.ReadUInt32LittleEndian(bytes.AsSpan(SignatureAt));
        set => BinaryPrimitives.WriteUInt32LittleEndian(bytes.AsSpan(SignatureAt), value);
    }

    /// <summary>Whether 55 AA ends the sector.</summary>
    public bool HasMark
    {
        get => bytes[MarkAt] == 0x55 && bytes[MarkAt + 1] == 0xAA;
        set => (bytes[MarkAt], bytes[MarkAt + 1]) = value ? ((byte)0x55, (byte)0xAA) : ((byte)0, (byte)0);
    }

    /// <summary>A slot of the table, 0 to 3.</summary>
    public PartitionSlot Slot(int index) => PartitionSlot.Read(bytes.AsSpan(SlotsAt + (index * PartitionSlot.Size)));

    /// <summary>Fills a slot of the table, 0 to 3.</summary>
    public void SetSlot(int index, PartitionSlot slot) => slot.Write(bytes.AsSpan(SlotsAt + (index * PartitionSlot.Size)));

    /// <summary>Fills a slot of the table with zeros, 0 to 3.</summary>
    public void ClearSlot(int index) => bytes.AsSpan(SlotsAt + (index * PartitionSlot.Size), PartitionSlot.Size).Clear();

    /// <summary>Sets the active mark of one slot and nothing else of it.</summary>
    public void SetActive(int index, bool active) =>
        bytes[SlotsAt + (index * PartitionSlot.Size)] = active ? PartitionSlot.ActiveMark : (byte)0;

    /// <summary>Sets the type of one slot and nothing else of it.</summary>
    public void SetType(int index, byte type) => bytes[SlotsAt + (index * PartitionSlot.Size) + PartitionSlot.TypeAt] = type;

    /// <summary>
    /// Whether it protects a GPT and also has an active partition of its own: then a BIOS starts by this table, and Windows reads
    /// the disk by it too.
    /// </summary>
    public bool IsHybrid => HasMark
        && Enumerable.Range(0, SlotCount).Select(Slot).Any(slot => slot.Type == PartitionTypes.Protective)
        && Enumerable.Range(0, SlotCount).Select(Slot).Any(slot =>
            slot is { IsUsed: true, Active: true, SectorCount: > 0, Type: not PartitionTypes.Protective });

    /// <summary>Puts code in; table and signature stay.</summary>
    public void SetCode(ReadOnlySpan<byte> code)
    {
        bytes.AsSpan(0, CodeBytes).Clear();
        code.CopyTo(bytes.AsSpan(0, CodeBytes));
    }

    /// <summary>The sector, a copy.</summary>
    public byte[] ToBytes() => [.. bytes];
}
