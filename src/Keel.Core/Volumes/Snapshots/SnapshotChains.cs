using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.Snapshots;

/// <summary>
/// Follows the lists of a volume's snapshots before the library does: they end, lie in the volume, and are no longer than can
/// be held in memory.
/// </summary>
/// <remarks>Layouts from the Volume Shadow Snapshot format documentation of libvshadow.</remarks>
internal sealed class SnapshotChains(IReadableBlocks volume)
{
    /// <summary>As many snapshots as Windows keeps of a volume at most.</summary>
    public const int MostSnapshots = 512;

    private const int MostCatalogBlocks = 64;

    /// <summary>4 million changed blocks: what the library keeps of them in memory is some hundred bytes each.</summary>
    private const int MostListBlocks = 8_000;

    /// <summary>Where the catalog begins; null where the volume has no head of snapshots, or has none of them.</summary>
    public static long? CatalogOf(IReadableBlocks volume)
    {
        if (volume.TryRead(SnapshotHeadRecord.At, 512) is not { } sector) return null;
        var head = sector.At<SnapshotHeadRecord>(0);
        return head.Identifier == SnapshotHeadRecord.Mark && head is { Kind: SnapshotBlockKind.Head, CatalogAt: not 0 }
            ? head.CatalogAt
            : null;
    }

    /// <summary>Follows the catalog; gives where the lists of each snapshot are.</summary>
    /// <exception cref="UnreadableException">It is damaged.</exception>
    public IReadOnlyList<SnapshotPlacesRecord> Catalog(long catalogAt)
    {
        var places = new List<SnapshotPlacesRecord>();
        foreach (var block in Follow(catalogAt, SnapshotBlockKind.Catalog, MostCatalogBlocks))
        {
            for (var at = SnapshotBlockRecord.HeadBytes; at < SnapshotBlockRecord.BlockBytes; at += SnapshotEntryRecord.Bytes)
            {
                var entry = volume.ReadBytes(block + at, SnapshotEntryRecord.Bytes).At<SnapshotPlacesRecord>(0);
                if (entry.EntryType == SnapshotPlacesRecord.Type) places.Add(entry);
            }
        }

        return places.Count <= MostSnapshots ? places : throw Damaged($"it lists {places.Count} of them");
    }

    /// <summary>Follows all lists of a snapshot.</summary>
    /// <exception cref="UnreadableException">One is damaged.</exception>
    public void CheckLists(SnapshotPlacesRecord places)
    {
        Check(places.BlockListAt, SnapshotBlockKind.BlockList);
        Check(places.InformationAt, SnapshotBlockKind.Information);
        Check(places.RangeListAt, SnapshotBlockKind.RangeList);
        Check(places.BitmapAt, SnapshotBlockKind.Bitmap);
        Check(places.EarlierBitmapAt, SnapshotBlockKind.Bitmap);
    }

    private void Check(long start, SnapshotBlockKind kind)
    {
        if (start == 0) return;
        foreach (var _ in Follow(start, kind, MostListBlocks))
        {
            // following it is the check
        }
    }

    private IEnumerable<long> Follow(long start, SnapshotBlockKind kind, int most)
    {
        var at = start;
        for (var count = 0; at != 0; count++)
        {
            if (count == most) throw Damaged($"a list of it goes in a circle, or on for more than {most} blocks");
            if (at < 0 || at > volume.LengthBytes - SnapshotBlockRecord.BlockBytes)
                throw Damaged($"a list of it leads to byte {at}, outside the volume");
            var record = volume.ReadBytes(at, SnapshotBlockRecord.HeadBytes).At<SnapshotBlockRecord>(0);
            if (record.Identifier != SnapshotHeadRecord.Mark || record.Kind != kind)
                throw Damaged($"at byte {at} there is no block of its list");
            yield return at;
            at = record.NextAt;
        }
    }

    private static UnreadableException Damaged(string why) => new(
        "The volume's snapshots can't be read.",
        $"What Windows keeps of them is damaged: {why}.",
        "The volume itself is not concerned; go on without them.");
}
