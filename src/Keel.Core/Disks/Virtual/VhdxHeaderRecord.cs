using System.Runtime.InteropServices;

namespace Keel.Core.Disks.Virtual;

/// <summary>One of the two headers of a VHDX: the newer whole one counts (MS-VHDX 2.2.2, "Headers").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct VhdxHeaderRecord
{
    /// <summary>The bytes that its checksum is of: the fields, and zeros behind them.</summary>
    public const int SummedBytes = 4096;

    /// <summary>Where the checksum stands in it.</summary>
    public const int ChecksumAt = 4;

    public uint Mark;                   // "head"
    public uint Checksum;               // CRC-32C of 4 KiB, this field zero
    public ulong Sequence;
    public Guid FileWriteId;            // new whenever somebody begins to write to the file
    public Guid DataWriteId;            // new whenever somebody begins to change the disk
    public Guid LogId;                  // zero where the log is empty
    public ushort LogVersion;           // 0
    public ushort Version;              // 1
    public uint LogBytes;
    public ulong LogAt;

    public const uint MarkValue = 0x64616568;
}
