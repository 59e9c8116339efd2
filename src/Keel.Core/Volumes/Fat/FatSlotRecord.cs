using System.Runtime.InteropServices;
using Keel.Core.Blocks;

namespace Keel.Core.Volumes.Fat;

/// <summary>A slot of a folder: 32 bytes (Microsoft FAT specification 1.03, "FAT 32 Byte Directory Entry Structure").</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct FatSlotRecord
{
    /// <summary>The marks of a folder that has no others.</summary>
    public const byte FolderMark = 0x10;

    public Bytes11 Name;                // 8 and 3 letters, filled with spaces
    public byte Marks;
    public byte Case;                   // which parts of the name are written small
    public byte CreatedTenths;
    public ushort CreatedTime;
    public ushort CreatedDate;
    public ushort AccessedDate;
    public ushort HighCluster;
    public ushort WrittenTime;
    public ushort WrittenDate;
    public ushort LowCluster;
    public uint SizeBytes;

    public uint FirstCluster
    {
        readonly get => ((uint)HighCluster << 16) | LowCluster;
        set => (HighCluster, LowCluster) = ((ushort)(value >> 16), (ushort)value);
    }
}
