using System.Runtime.InteropServices;

namespace Keel.Core.Hives;

/// <summary>How a bin begins: 32 bytes (published notes on the regf format, "Hive bin").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct HiveBinRecord
{
    /// <summary>"hbin".</summary>
    public const uint UsualMark = 0x6E696268;

    public uint Mark;
    public int Offset;                  // from the end of the base block
    public int Size;
    public ulong Reserved;
    public long Written;                // 100 ns since 1601; in the first bin only
    public uint Spare;
}
