using System.Runtime.InteropServices;
using Keel.Core.Blocks;
using Keel.Core.Volumes;

namespace Keel.Core.Search;

/// <summary>
/// The first sector of an exFAT volume, as far as places go (exFAT file system specification, "Main Boot Sector").
/// </summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct ExFatBootRecord
{
    public const int SectorBytes = 512;
    private const int ZeroBytes = 53;

    private readonly Bytes3 jump;
    public Bytes8 Oem;                  // "EXFAT   "
    private readonly Bytes53 zeros;
    public long PartitionSector;        // sectors of the disk before it
    public long Sectors;
    public uint TableSector;
    public uint TableSectors;
    public uint ClustersSector;
    public uint ClusterCount;
    public uint RootCluster;
    public uint Serial;
    public ushort Revision;
    public ushort Flags;
    public byte SectorShift;            // bytes of a sector, as a power of two
    public byte ClusterShift;

    /// <summary>Whether a sector says that it is one.</summary>
    public static bool IsIn(ReadOnlySpan<byte> sector) =>
        sector.Length >= SectorBytes && sector[3..].StartsWith("EXFAT   "u8) && BootSectorMark.IsIn(sector);

    [System.Runtime.CompilerServices.InlineArray(3)]
    private struct Bytes3
    {
        private byte first;
    }

    [System.Runtime.CompilerServices.InlineArray(ZeroBytes)]
    private struct Bytes53
    {
        private byte first;
    }
}
