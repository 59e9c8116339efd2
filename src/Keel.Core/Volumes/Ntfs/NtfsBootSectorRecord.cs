using System.Runtime.InteropServices;

namespace Keel.Core.Volumes.Ntfs;

/// <summary>The first 84 bytes of an NTFS volume, up to its boot code: $Boot of the documentation of Linux-NTFS.</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct NtfsBootSectorRecord
{
    public BootParameterRecord Head;
    public uint PhysicalDrive;          // 0x00800080
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
