using System.Runtime.InteropServices;

namespace Keel.Core.Disks.Virtual;

/// <summary>
/// What an entry of the log writes: 4 KiB of data, or a run of zeros (MS-VHDX 2.3.1.2 and 2.3.1.3, "Zero Descriptor" and "Data
/// Descriptor").
/// </summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct VhdxLogDescriptorRecord
{
    public const int Bytes = 32;
    public const uint ZeroMark = 0x6F72657A, DataMark = 0x63736564;

    public uint Mark;                   // "zero" or "desc"
    public uint Last;                   // data: the last four bytes of its 4 KiB
    public ulong First;                 // data: the first eight; zeros: their length in bytes
    public ulong At;                    // bytes of the file
    public ulong Sequence;              // that of the entry
}
