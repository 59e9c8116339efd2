using Keel.Core.Layout;

namespace Keel.Core.Rescue;

/// <summary>One way to read a disk whose partition table is lost or incomplete.</summary>
/// <param name="Scheme">The kind of table that it had.</param>
/// <param name="Identity">Its signature or GUID.</param>
/// <param name="IdentityFrom">From where that is known.</param>
/// <param name="Partitions">Its partitions, in the order of their numbers.</param>
public sealed record TableReading(
    PartitionScheme Scheme,
    DiskIdentity Identity,
    IdentityOrigin IdentityFrom,
    IReadOnlyList<ReadPartition> Partitions)
{
    /// <summary>Those that the table does not list today.</summary>
    public IEnumerable<ReadPartition> New => Partitions.Where(partition => partition.Origin != PartitionOrigin.Listed);

    /// <summary>Whether it can be written without asking: everything in it is borne out by what stands on the disk.</summary>
    public bool IsCertain => New.All(partition =>
        partition.Found is { IsCertain: true }
            || partition.Origin == PartitionOrigin.Remains
            || partition.Partition.IsExtended);

    /// <summary>Whether any partition in it holds what a machine starts from.</summary>
    public bool HoldsSystem { get; init; }

    /// <summary>The links of its chain of logical partitions, in the order of the disk.</summary>
    internal IReadOnlyList<LogicalLink> LinksOf(int sectorBytes) =>
    [
        .. Partitions
            .Where(partition => partition.LinkSector is not null)
            .OrderBy(partition => partition.LinkSector)
            .Select(partition => new LogicalLink(
                partition.LinkSector!.Value,
                partition.Partition.Range.Start / sectorBytes,
                partition.Partition.Range.Length / sectorBytes,
                partition.Partition.MbrType))
    ];
}
