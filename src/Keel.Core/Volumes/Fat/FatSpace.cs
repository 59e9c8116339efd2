using Keel.Core.Blocks;

namespace Keel.Core.Volumes.Fat;

/// <summary>Where things are on a FAT volume: parameters, table, clusters.</summary>
internal sealed record FatSpace(IWritableBlocks Partition, FatBootSector Parameters, FatTable Table, TimeProvider Clock)
{
    /// <summary>The fixed root folder of FAT12 and FAT16; null on FAT32.</summary>
    public ByteRange? RootRange => Parameters.Kind == FileSystemKind.Fat32
        ? null
        : new ByteRange(
            (Parameters.ReservedSectors + (Parameters.FatCount * Parameters.FatSectors)) * Parameters.BytesPerSector,
            (long)Parameters.RootEntries * FatEntry.SlotBytes);

    /// <summary>The bytes of a cluster, from the volume's start.</summary>
    public ByteRange RangeOf(uint cluster) =>
        new(
            (Parameters.DataSector * Parameters.BytesPerSector)
                + ((long)(cluster - FatTable.FirstCluster) * Parameters.ClusterBytes),
            Parameters.ClusterBytes);

    /// <summary>How many clusters so many bytes take.</summary>
    public int ClustersFor(long bytes) => (int)((bytes + Parameters.ClusterBytes - 1) / Parameters.ClusterBytes);

    /// <summary>Clusters as runs of bytes, neighbours joined.</summary>
    public List<ByteRange> Runs(IEnumerable<uint> clusters)
    {
        var runs = new List<ByteRange>();
        foreach (var range in clusters.Select(RangeOf))
        {
            if (runs.Count > 0 && runs[^1].End == range.Start)
                runs[^1] = runs[^1] with { Length = runs[^1].Length + range.Length };
            else
                runs.Add(range);
        }

        return runs;
    }
}
