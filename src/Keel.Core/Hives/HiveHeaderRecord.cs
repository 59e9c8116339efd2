using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;

namespace Keel.Core.Hives;

/// <summary>The part of a base block that counts: 512 bytes (published notes on the regf format, "Base block").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct HiveHeaderRecord
{
    public uint Mark;
    public uint PrimarySequence;
    public uint SecondarySequence;
    public long LastWritten;            // 100 ns since 1601
    public uint Major;
    public uint Minor;
    public uint FileType;               // 0: a hive
    public uint Format;                 // 1
    public uint RootCell;
    public uint BinsBytes;
    public uint Clustering;             // 1
    private readonly Gap names;
    public uint Checksum;

    [InlineArray(460)]
    private struct Gap
    {
        private byte first;
    }
}
