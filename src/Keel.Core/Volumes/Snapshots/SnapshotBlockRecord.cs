using System.Runtime.InteropServices;

namespace Keel.Core.Volumes.Snapshots;

/// <summary>How the catalog and the lists of a snapshot begin: 48 bytes used of 128, in blocks of 16 KiB.</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct SnapshotBlockRecord
{
    /// <summary>The unit of everything that snapshots keep, in bytes.</summary>
    public const int BlockBytes = 0x4000;

    /// <summary>Where the contents begin.</summary>
    public const int HeadBytes = 128;

    public Guid Identifier;
    public uint Version;
    public SnapshotBlockKind Kind;
    public long Within;                 // from the start of its file
    public long Place;                  // from the start of the volume
    public long NextAt;                 // 0 behind the last
}
