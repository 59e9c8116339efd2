using System.Runtime.InteropServices;

namespace Keel.Core.Volumes.Snapshots;

/// <summary>The first of the two catalog entries of a snapshot (entry type 2): 56 bytes used of 128.</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct SnapshotEntryRecord
{
    /// <summary>The length of a catalog entry, in bytes.</summary>
    public const int Bytes = 128;

    public const long Type = 2;

    public long EntryType;
    public long VolumeBytes;
    public Guid Id;
    public long Sequence;
    public long Flags;
    public long Made;                   // FILETIME
}
