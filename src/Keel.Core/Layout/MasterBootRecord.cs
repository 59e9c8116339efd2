using System.Buffers.Binary;

namespace Keel.Core.Layout;

/// <summary>The first sector of a disk: boot code, disk signature, four slots, mark.</summary>
/// <remarks>Works on its own copy of the 512 bytes; <see cref="ToBytes"/> gives them back, untouched where nothing was
///     set.</remarks>
public sealed class MasterBootRecord
{
    public const int Size = 512;
    public const int CodeBytes = 0x1B8;
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

    public PartitionSlot Slot(int index) => PartitionSlot.Read(bytes.AsSpan(SlotsAt + (index * PartitionSlot.Size)));

    public void SetSlot(int index, PartitionSlot slot) => slot.Write(bytes.AsSpan(SlotsAt + (index * PartitionSlot.Size)));

    public void ClearSlot(int index) => bytes.AsSpan(SlotsAt + (index * PartitionSlot.Size), PartitionSlot.Size).Clear();

    /// <summary>Sets the active mark of one slot and nothing else of it.</summary>
    public void SetActive(int index, bool active) =>
        bytes[SlotsAt + (index * PartitionSlot.Size)] = active ? PartitionSlot.ActiveMark : (byte)0;

    public void SetCode(ReadOnlySpan<byte> code)
    {
        bytes.AsSpan(0, CodeBytes).Clear();
        code.CopyTo(bytes.AsSpan(0, CodeBytes));
    }

    public byte[] ToBytes() => [.. bytes];
}
