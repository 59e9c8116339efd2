using System.Runtime.InteropServices;
using Keel.Core.Blocks;

namespace Keel.Core.Volumes;

/// <summary>
/// The 36 bytes that the boot sectors of FAT and NTFS begin with (Microsoft FAT specification 1.03, "Boot Sector and BPB").
/// </summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct BootParameterRecord
{
    public byte JumpCode;
    public ushort JumpPlace;
    public Bytes8 Oem;                  // NTFS: "NTFS    "
    public ushort BytesPerSector;
    public byte SectorsPerCluster;      // NTFS: above 0x80 a power of two, negative
    public ushort ReservedSectors;      // from here to SmallSectors 0 on NTFS
    public byte Fats;
    public ushort RootEntries;          // 0 on FAT32
    public ushort SmallSectors;         // 0 where LargeSectors counts
    public byte Media;
    public ushort SectorsPerFat;        // 0 on FAT32
    public ushort SectorsPerTrack;
    public ushort Heads;
    public uint HiddenSectors;          // before the partition
    public uint LargeSectors;

    /// <summary>The jump over the parameters that every boot sector begins with.</summary>
    public void SetJump(int to)
    {
        const byte jumpShort = 0xEB, nothing = 0x90;
        const int jumpBytes = 2;
        JumpCode = jumpShort;
        JumpPlace = (ushort)((nothing << 8) | (to - jumpBytes));
    }
}
