using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;

namespace Keel.Core.Disks.Virtual;

/// <summary>4 KiB of data of the log without the ends that its descriptor has (MS-VHDX 2.3.1.4, "Data Sector").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct VhdxLogDataRecord
{
    public const int Bytes = 4096, MiddleAt = 8, MiddleBytes = 4084;
    public const uint MarkValue = 0x61746164;

    public uint Mark;                   // "data"
    public uint SequenceHigh;
    public Bytes4084 Middle;
    public uint SequenceLow;

    [InlineArray(MiddleBytes)]
    public struct Bytes4084
    {
        private byte first;
    }
}
