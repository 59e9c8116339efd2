using System.Runtime.InteropServices;

namespace Keel.Core.Disks.Virtual;

/// <summary>A region of a VHDX (MS-VHDX 2.2.3.2, "Region Table Entry").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct VhdxRegionRecord
{
    public Guid Kind;
    public ulong At;                    // bytes of the file
    public uint Bytes;
    public uint Required;               // bit 0: who does not know it must not open the file
}
