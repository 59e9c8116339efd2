using System.Runtime.InteropServices;

namespace Keel.Core.Volumes.Snapshots;

/// <summary>The second of the two catalog entries of a snapshot (entry type 3): 80 bytes used of 128.</summary>
[StructLayout(LayoutKind.Sequential, Pack = 1)]
internal struct SnapshotPlacesRecord
{
    public const long Type = 3;

    public long EntryType;
    public long BlockListAt;
    public Guid Id;
    public long InformationAt;
    public long RangeListAt;
    public long BitmapAt;
    public long FileReference;          // of the file that it is kept in
    public long AllocatedBytes;
    public long EarlierBitmapAt;
}
