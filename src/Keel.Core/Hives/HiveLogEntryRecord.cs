using System.Runtime.InteropServices;

namespace Keel.Core.Hives;

/// <summary>How an entry of a log of the new form begins: 40 bytes (published notes on the regf format, "Log entry").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct HiveLogEntryRecord
{
    /// <summary>"HvLE".</summary>
    public const uint UsualMark = 0x454C7648;

    /// <summary>How many bytes the second hash is over.</summary>
    public const int HashedBytes = 32;

    public uint Mark;
    public uint Size;                   // whole sectors of 512 bytes
    public uint Flags;
    public uint Sequence;
    public uint BinsBytes;
    public uint PageCount;
    public ulong FirstHash;             // of what stands behind this record
    public ulong SecondHash;            // of the fields before it
}
