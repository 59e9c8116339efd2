using System.Runtime.InteropServices;

namespace Keel.Core.Firmware;

/// <summary>
/// A partition in a device path, behind the node's head: 38 bytes (UEFI specification, "Hard Drive Media Device Path").
/// </summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct HardDriveRecord
{
    public const byte MbrFormat = 1, GptFormat = 2, SignatureKind = 1, GuidKind = 2;

    public uint Number;
    public ulong FirstSector;
    public ulong SectorCount;
    public Guid Id;                     // MBR: the disk signature in the first 4 bytes
    public byte Format;
    public byte IdKind;
}
