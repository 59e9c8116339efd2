using System.Runtime.CompilerServices;
using System.Runtime.InteropServices;

namespace Keel.Core.Volumes.Fat;

/// <summary>The sector that counts free clusters: 512 bytes (Microsoft FAT specification 1.03, "FSInfo").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct FatInfoRecord
{
    public const uint LeadMark = 0x41615252, StructureMark = 0x61417272, TrailMark = 0xAA550000;

    /// <summary>Stands for a count that is not known.</summary>
    public const uint Unknown = uint.MaxValue;

    public uint Lead;
    private readonly Gap reserved1;
    public uint Structure;
    public uint FreeClusters;
    public uint NextFree;
    private readonly ulong reserved2;
    private readonly uint reserved3;
    public uint Trail;

    [InlineArray(480)]
    private struct Gap
    {
        private byte first;
    }
}
