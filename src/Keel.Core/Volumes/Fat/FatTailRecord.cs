using System.Runtime.InteropServices;
using Keel.Core.Blocks;

namespace Keel.Core.Volumes.Fat;

/// <summary>The 26 bytes before the boot code of a FAT volume (Microsoft FAT specification 1.03, from BS_DrvNum on).</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct FatTailRecord
{
    /// <summary>Where it stands in the boot sector, in bytes.</summary>
    public const int At = 0x24, WideAt = 0x40;

    /// <summary>Says that serial number, label and name are there.</summary>
    public const byte ExtendedMark = 0x29;

    public byte Drive;                  // 0x80
    private readonly byte reserved;
    public byte Mark;
    public uint Serial;
    public Bytes11 Label;
    public Bytes8 FileSystem;           // a word for people; readers count clusters
}
