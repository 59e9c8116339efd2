using System.Runtime.InteropServices;

namespace Keel.Core.EventLogs;

/// <summary>How an event log begins: 128 bytes of its first 4096 (MS-EVEN6, and published notes on the evtx format).</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct EventLogFileRecord
{
    /// <summary>"ElfFile" and a zero.</summary>
    public const ulong UsualMark = 0x00656C6946666C45;

    /// <summary>The room that it stands in, in bytes; the chunks follow.</summary>
    public const int BlockBytes = 4096;

    /// <summary>How many of its bytes the checksum is over.</summary>
    public const int SummedBytes = 120;

    public ulong Mark;
    public ulong FirstChunk;
    public ulong LastChunk;
    public ulong NextNumber;
    public uint HeaderBytes;
    public ushort MinorVersion;
    public ushort MajorVersion;
    public ushort BlockSize;            // bytes
    public ushort ChunkCount;
    public EventLogGap76 Unused;
    public uint Flags;                  // 1 dirty, 2 full
    public uint Checksum;               // CRC-32
}
