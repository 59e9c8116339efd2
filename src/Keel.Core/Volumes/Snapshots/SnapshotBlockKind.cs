namespace Keel.Core.Volumes.Snapshots;

/// <summary>What a block of a volume's snapshots is ("Record type").</summary>
internal enum SnapshotBlockKind : uint
{
    Head = 1,
    Catalog = 2,
    BlockList = 3,
    Information = 4,
    RangeList = 5,
    Bitmap = 6
}
