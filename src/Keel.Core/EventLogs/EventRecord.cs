using System.Runtime.InteropServices;

namespace Keel.Core.EventLogs;

/// <summary>How a record of a chunk begins: 24 bytes; its size stands again in its last four.</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct EventRecord
{
    /// <summary>Two asterisks.</summary>
    public const uint UsualMark = 0x00002A2A;

    /// <summary>Its own size and the size at the end, in bytes.</summary>
    public const int HeadBytes = 24, TailBytes = 4;

    public uint Mark;
    public uint Size;                   // bytes, all of it
    public ulong Number;
    public long Written;                // 100 ns since 1601
}
