using System.Runtime.InteropServices;

namespace Keel.Core.Disks.Virtual;

/// <summary>The head of an entry of the log (MS-VHDX 2.3.1.1, "Log Entry Header").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct VhdxLogEntryRecord
{
    public const int Bytes = 64, ChecksumAt = 4;
    public const uint MarkValue = 0x65676F6C;

    public uint Mark;                   // "loge"
    public uint Checksum;               // CRC-32C of the whole entry, this field zero
    public uint EntryBytes;             // a multiple of 4 KiB
    public uint TailAt;                 // bytes of the log: where the sequence begins that this entry ends
    public ulong Sequence;
    public uint DescriptorCount;
    public uint Reserved;
    public Guid LogId;
    public ulong FlushedFileBytes;      // the file had at least this length when it was written
    public ulong LastFileBytes;         // and has this one once it is replayed
}
