using System.Runtime.InteropServices;
using Keel.Core.Blocks;

namespace Keel.Core.Layout;

/// <summary>A header of a GUID partition table as it stands in its sector: 92 bytes (UEFI specification, "GPT Header").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct GptHeaderRecord
{
    public Bytes8 Mark;                 // "EFI PART"
    public uint Revision;               // 1.0 is 0x00010000
    public uint HeaderBytes;            // 92 or more, at most a sector
    public uint Crc;                    // of the header, this field zero
    public uint Reserved;
    public long OwnSector;
    public long OtherSector;            // of the other copy
    public long FirstUsableSector;
    public long LastUsableSector;
    public Guid DiskGuid;
    public long EntriesSector;
    public uint EntryCount;
    public uint EntryBytes;
    public uint EntriesCrc;
}
