using System.Runtime.InteropServices;

namespace Keel.Core.Layout;

/// <summary>A slot of a master boot record: 16 bytes. Places in cylinders, heads and sectors are three bytes each.</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct PartitionSlotRecord
{
    public byte Mark;                   // 80 for the active one
    public byte FirstHead;
    public ushort FirstCylinder;
    public byte Type;                   // 0 where the slot is unused
    public byte LastHead;
    public ushort LastCylinder;
    public uint FirstSector;
    public uint SectorCount;
}
