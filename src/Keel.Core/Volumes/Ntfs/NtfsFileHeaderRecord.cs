using System.Runtime.InteropServices;

namespace Keel.Core.Volumes.Ntfs;

/// <summary>How a file record begins: 42 bytes ("FILE record" of the documentation of Linux-NTFS).</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct NtfsFileHeaderRecord
{
    private const ushort InUseBit = 1;

    public NtfsBlockRecord Block;
    public ulong LogSequence;
    public ushort Sequence;
    public ushort LinkCount;
    public ushort FirstAttributeAt;
    public ushort Flags;
    public uint UsedBytes;
    public uint AllocatedBytes;
    public ulong BaseRecord;
    public ushort NextAttributeId;

    public readonly bool IsInUse => (Flags & InUseBit) != 0;
}
