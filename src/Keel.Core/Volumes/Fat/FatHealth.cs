using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Volumes.Fat;

/// <summary>
/// How sound a FAT file system is: whether its copies of the table agree, and whether each leads to every file.
/// </summary>
/// <param name="CopiesDiffer">The copies are kept alike, and are not alike.</param>
/// <param name="Damage">What is wrong with the files when the first copy is followed; the first few things only.</param>
/// <param name="BestCopy">The copy that leads to most files whole; the first where they are as good as each other.</param>
/// <param name="BestIsSound">Whether that copy leads to all of them.</param>
public sealed record FatHealth(bool CopiesDiffer, IReadOnlyList<string> Damage, int BestCopy, bool BestIsSound)
{
    private const int EntriesLimit = 100_000, DepthLimit = 64, DamageLimit = 5, PieceBytes = 64 * 1024;
    private const long CompareLimit = 64 * 1024 * 1024;

    /// <summary>Looks at a volume; bounded in time and memory by the size of its table.</summary>
    /// <exception cref="UnreadableException">It is no FAT volume.</exception>
    public static FatHealth Of(IWritableBlocks partition, string name)
    {
        using var volume = FatVolume.Open(partition, name);
        var parameters = volume.Space.Parameters;
        var first = DamageOf(volume.Space);
        var differ = parameters is { FatCount: 2, OnlyFat: null } && CopiesDifferIn(partition, parameters);
        if (!differ) return new FatHealth(CopiesDiffer: false, first, BestCopy: 0, first.Count == 0);
        var second = DamageOf(volume.Space with { Table = new FatTable(partition, parameters, copy: 1) });
        return first.Count <= second.Count
            ? new FatHealth(CopiesDiffer: true, first, 0, first.Count == 0)
            : new FatHealth(CopiesDiffer: true, first, 1, second.Count == 0);
    }

    /// <summary>Writes one copy of the table over the others.</summary>
    public static void SpreadCopy(IWritableBlocks partition, int copy)
    {
        if (FatBootSector.TryRead(partition.ReadBytes(0, FatBootSector.Size)) is not { } parameters) return;
        foreach (var (at, count) in Pieces(parameters))
        {
            var piece = partition.ReadBytes(OffsetOf(parameters, copy) + at, count);
            for (var other = 0; other < parameters.FatCount; other++)
            {
                if (other != copy) partition.Write(OffsetOf(parameters, other) + at, piece);
            }
        }
    }

    private static bool CopiesDifferIn(IWritableBlocks partition, FatBootSector parameters) =>
        Pieces(parameters).TakeWhile(piece => piece.At < CompareLimit).Any(piece =>
        !partition
            .ReadBytes(OffsetOf(parameters, 0) + piece.At, piece.Count)
            .AsSpan()
            .SequenceEqual(partition.ReadBytes(OffsetOf(parameters, 1) + piece.At, piece.Count)));

    private static IEnumerable<(long At, int Count)> Pieces(FatBootSector parameters)
    {
        var bytes = parameters.FatSectors * parameters.BytesPerSector;
        for (long at = 0; at < bytes; at += PieceBytes) yield return (at, (int)Math.Min(PieceBytes, bytes - at));
    }

    private static long OffsetOf(FatBootSector parameters, int copy) =>
        (parameters.ReservedSectors + (copy * parameters.FatSectors)) * parameters.BytesPerSector;

    private static List<string> DamageOf(FatSpace space)
    {
        var walk = new TreeWalk(space);
        if (space.Parameters.Kind == FileSystemKind.Fat32 && !walk.Claim(space.Parameters.RootCluster, null, @"\"))
            return walk.Damage;
        walk.Visit(FatFolder.Root(space), "", 0);
        return walk.Damage;
    }

    /// <summary>Follows every chain of the tree once, and notes what is claimed twice or ends early.</summary>
    private sealed class TreeWalk(FatSpace space)
    {
        private readonly HashSet<uint> claimed = [];
        private int entries;

        public List<string> Damage { get; } = [];

        public void Visit(FatFolder folder, string path, int depth)
        {
            foreach (var entry in folder.Entries)
            {
                if (Damage.Count >= DamageLimit || ++entries > EntriesLimit) return;
                var name = $@"{path}\{entry.Name}";
                if (entry is { IsFolder: false, SizeBytes: 0 } && entry.FirstCluster == 0) continue;
                if (!Claim(entry.FirstCluster, entry.IsFolder ? null : entry.SizeBytes, name) || !entry.IsFolder) continue;
                if (depth < DepthLimit) Visit(FatFolder.At(space, entry.FirstCluster), name, depth + 1);
            }
        }

        /// <summary>Takes a chain for a file or folder. False where it can't be followed.</summary>
        /// <param name="first">The first cluster.</param>
        /// <param name="sizeBytes">What the file should have; null for a folder, whose chain says its size.</param>
        /// <param name="name">Its name.</param>
        public bool Claim(uint first, uint? sizeBytes, string name)
        {
            var count = 0L;
            var cluster = first;
            while (space.Table.IsCluster(cluster))
            {
                if (!claimed.Add(cluster)) return Wrong($"{name} shares clusters with another file, or runs in a circle");
                count++;
                cluster = space.Table.Get(cluster);
            }

            if (count == 0 || !space.Table.IsEnd(cluster)) return Wrong($"the chain of {name} breaks off after {count} clusters");
            if (sizeBytes is { } size && count != space.ClustersFor(size))
                return Wrong($"{name} has {size} bytes and {count} clusters of {space.Parameters.ClusterBytes}");
            return true;
        }

        private bool Wrong(string what)
        {
            Damage.Add(what);
            return false;
        }
    }
}
