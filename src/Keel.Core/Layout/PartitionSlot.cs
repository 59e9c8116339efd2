using System.Buffers.Binary;

namespace Keel.Core.Layout;

/// <summary>One of the four partition slots of a master boot record, 16 bytes.</summary>
/// <remarks>Sectors are logical sectors of the disk; a slot of type 0 is unused. CHS fields are kept elsewhere as they
///     are.</remarks>
/// <param name="Mark">80 for the active one, 00 otherwise; anything else is damage.</param>
public readonly record struct PartitionSlot(byte Mark, byte Type, uint FirstSector, uint SectorCount)
{
    public const int Size = 16;
    public const byte ActiveMark = 0x80;
    private const int MarkAt = 0, TypeAt = 4, FirstSectorAt = 8, SectorCountAt = 12;

    public bool Active => Mark == ActiveMark;

    public bool IsUsed => Type != 0;

    public bool IsExtended => Type is PartitionTypes.Extended or PartitionTypes.ExtendedLba or PartitionTypes.ExtendedLinux;

    public static PartitionSlot Read(ReadOnlySpan<byte> slot) => new(
        slot[MarkAt],
        slot[TypeAt],
        BinaryPrimitives.ReadUInt32LittleEndian(slot[FirstSectorAt..]),
        BinaryPrimitives.ReadUInt32LittleEndian(slot[SectorCountAt..]));

    /// <summary>Writes the slot, with CHS fields that say "use the sector numbers".</summary>
    public void Write(Span<byte> slot)
    {
        slot[..Size].Clear();
        slot[MarkAt] = Mark;
        ((ReadOnlySpan<byte>)[0xFE, 0xFF, 0xFF]).CopyTo(slot[1..]);
        slot[TypeAt] = Type;
        ((ReadOnlySpan<byte>)[0xFE, 0xFF, 0xFF]).CopyTo(slot[5..]);
        BinaryPrimitives.WriteUInt32LittleEndian(slot[FirstSectorAt..], FirstSector);
        BinaryPrimitives.WriteUInt32LittleEndian(slot[SectorCountAt..], SectorCount);
    }
}
