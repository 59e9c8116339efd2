using System.Runtime.InteropServices;

namespace Keel.Core.Disks.Virtual;

/// <summary>Where an item of metadata stands (MS-VHDX 2.6.1.2, "Metadata Table Entry").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct VhdxMetadataRecord
{
    public const uint Required = 4;     // who does not know it must not open the file

    public Guid Item;
    public uint At;                     // bytes from the region's start
    public uint Bytes;
    public uint Flags;
    public uint Reserved;
}
