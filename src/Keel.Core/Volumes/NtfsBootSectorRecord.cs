using System.Runtime.InteropServices;
using Keel.Core.Blocks;

namespace Keel.Core.Volumes;

/// <summary>The first 84 bytes of an NTFS volume, up to its boot code: $Boot of the documentation of Linux-NTFS.</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct NtfsBootSectorRecord
{
    public byte JumpCode;
    public ushort JumpPlace;
    public Bytes8 Oem;                  // "NTFS    "
    public ushort BytesPerSector;
    public byte SectorsPerCluster;      // above 0x80: a power of two, negative
    public ushort ReservedSectors;      // 0
    public byte Fats;                   // 0, as all fields that FAT has and NTFS has not
    public ushort RootEntries;
    public ushort SmallSectors;
    public byte Media;
    public ushort SectorsPerFat;
    public ushort SectorsPerTrack;
    public ushort Heads;
    public uint HiddenSectors;          // before the partition
    public uint LargeSectors;
    public uint PhysicalDrive;
    public long TotalSectors;           // without the last one, which holds the backup
    public long MftCluster;
    public long MftMirrorCluster;
    public sbyte RecordClusters;        // negative: a power of two, in bytes
    private readonly byte padding1;
    private readonly ushort padding2;
    public sbyte IndexClusters;         // the same
    private readonly byte padding3;
    private readonly ushort padding4;
    public ulong Serial;
    public uint Checksum;               // unused
}
