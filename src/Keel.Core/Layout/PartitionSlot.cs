using Keel.Core.Blocks;

namespace Keel.Core.Layout;

/// <summary>One of the four partition slots of a master boot record, 16 bytes.</summary>
/// <remarks>Sectors are logical sectors of the disk; a slot of type 0 is unused. CHS fields are kept elsewhere as they
///     are.</remarks>
/// <param name="Mark">80 for the active one, 00 otherwise; anything else is damage.</param>
/// <param name="Type">Its type.</param>
/// <param name="FirstSector">Its first sector.</param>
/// <param name="SectorCount">How many sectors it has.</param>
public readonly record struct PartitionSlot(byte Mark, byte Type, uint FirstSector, uint SectorCount)
{
    /// <summary>The size of a slot, in bytes.</summary>
    public const int Size = 16;

    /// <summary>Where the type stands in a slot, in bytes.</summary>
    internal const int TypeAt = 4;

    public const byte ActiveMark = 0x80;
    private const byte UseSectorsHead = 0xFE;
    private const ushort UseSectorsCylinder = 0xFFFF;

    public bool Active => Mark == ActiveMark;

    /// <summary>Whether there is a partition in it.</summary>
    public bool IsUsed => Type != 0;

    /// <summary>Whether the partition only holds others.</summary>
    public bool IsExtended => Type is PartitionTypes.Extended or PartitionTypes.ExtendedLba or PartitionTypes.ExtendedLinux;

    /// <summary>Reads a slot of 16 bytes.</summary>
    public static PartitionSlot Read(ReadOnlySpan<byte> slot)
    {
        var record = slot.At<PartitionSlotRecord>(0);
        return new PartitionSlot(record.Mark, record.Type, record.FirstSector, record.SectorCount);
    }

    /// <summary>Writes the slot, with CHS fields that say "use the sector numbers".</summary>
    public void Write(Span<byte> slot) => slot.Put(0, new PartitionSlotRecord
    {
        Mark = Mark,
        FirstHead = UseSectorsHead,
        FirstCylinder = UseSectorsCylinder,
        Type = Type,
        LastHead = UseSectorsHead,
        LastCylinder = UseSectorsCylinder,
        FirstSector = FirstSector,
        SectorCount = SectorCount
    });
}
