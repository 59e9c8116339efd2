using System.Runtime.InteropServices;

namespace Keel.Core.Hives;

/// <summary>The cell of a security descriptor up to it: 20 bytes (published notes on the regf format, "Key security").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct HiveSecurityRecord
{
    /// <summary>"sk".</summary>
    public const ushort UsualMark = 0x6B73;

    public ushort Mark;
    public ushort Reserved;
    public uint Next;                   // the cells are a ring
    public uint Previous;
    public uint Uses;
    public uint Size;
}
