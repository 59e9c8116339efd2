using System.Runtime.InteropServices;

namespace Keel.Core.Volumes.Ntfs;

/// <summary>An entry of an attribute list: 26 bytes ("$ATTRIBUTE_LIST" of the documentation of Linux-NTFS).</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct NtfsListEntryRecord
{
    public uint Type;
    public ushort Length;
    public byte NameLength;             // letters
    public byte NameAt;
    public ulong FirstCluster;
    public uint Record;                 // 48 bits and a sequence number; boot code reads 32
    public ushort RecordHigh;
    public ushort Sequence;
    public ushort Number;
}
