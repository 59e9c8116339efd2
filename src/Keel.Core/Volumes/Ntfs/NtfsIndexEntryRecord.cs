using System.Runtime.InteropServices;

namespace Keel.Core.Volumes.Ntfs;

/// <summary>An entry of a folder's index: 16 bytes, and the file's name ("Index entry").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct NtfsIndexEntryRecord
{
    private const ushort ChildBit = 1, LastBit = 2;

    public uint Record;                 // 48 bits and a sequence number; boot code reads 32
    public ushort RecordHigh;
    public ushort Sequence;
    public ushort Length;
    public ushort StreamLength;
    public ushort Flags;
    private readonly ushort padding;

    public readonly bool HasChild => (Flags & ChildBit) != 0;

    public readonly bool IsLast => (Flags & LastBit) != 0;
}
