using System.Runtime.InteropServices;

namespace Keel.Core.EventLogs;

/// <summary>How a record of an event log of NT 5 begins: 56 bytes; source and computer follow (MS-EVEN).</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct OldEventRecord
{
    /// <summary>"LfLe", in the file's header and in each record.</summary>
    public const uint UsualMark = 0x654C664C;

    /// <summary>Where the mark stands in it, and its own size; at the end the record's size stands again.</summary>
    public const int MarkAt = 4, HeadBytes = 56, TailBytes = 4;

    public uint Size;                   // bytes, all of it
    public uint Mark;
    public uint Number;
    public uint Generated;              // seconds since 1970
    public uint Written;                // seconds since 1970
    public uint EventId;                // the number in the lower 16 bits
    public ushort Type;
    public ushort StringCount;
    public ushort Category;
    public ushort Flags;
    public uint ClosingNumber;
    public uint StringsAt;              // from the record's first byte
    public uint SidBytes;
    public uint SidAt;
    public uint DataBytes;
    public uint DataAt;
}
