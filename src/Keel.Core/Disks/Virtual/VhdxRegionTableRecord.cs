using System.Runtime.InteropServices;

namespace Keel.Core.Disks.Virtual;

/// <summary>The head of a table of regions (MS-VHDX 2.2.3.1, "Region Table Header").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct VhdxRegionTableRecord
{
    public const int TableBytes = 64 * 1024, ChecksumAt = 4, MostEntries = 2047;
    public const uint MarkValue = 0x69676572;

    public uint Mark;                   // "regi"
    public uint Checksum;               // CRC-32C of 64 KiB, this field zero
    public uint EntryCount;
    public uint Reserved;
}
