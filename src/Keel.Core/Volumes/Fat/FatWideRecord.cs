using System.Runtime.InteropServices;

namespace Keel.Core.Volumes.Fat;

/// <summary>What FAT32 has behind the common parameters: 28 bytes (FAT specification 1.03, from BPB_FATSz32 on).</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct FatWideRecord
{
    /// <summary>Where it stands in the boot sector, in bytes.</summary>
    public const int At = 0x24;

    private const ushort OneFatBit = 0x80, FatMask = 0x0F;

    public uint SectorsPerFat;
    public ushort Flags;
    public ushort Version;
    public uint RootCluster;
    public ushort InfoSector;
    public ushort BackupSector;
    private readonly uint reserved1;
    private readonly ulong reserved2;

    /// <summary>The copy of the FAT that alone is in use; null where all are kept alike.</summary>
    public readonly int? OnlyFat => (Flags & OneFatBit) != 0 ? Flags & FatMask : null;
}
