using Keel.Core.Layout;
using Keel.Core.Search;

namespace Keel.Core.Rescue;

/// <summary>A partition as a rescued table would list it.</summary>
/// <param name="Partition">The partition.</param>
/// <param name="Origin">From where it is known.</param>
/// <param name="Found">The volume that was found there; null where none was.</param>
/// <param name="LinkSector">The sector of its link in the chain of logical partitions; null for primary ones.</param>
public sealed record ReadPartition(Partition Partition, PartitionOrigin Origin, FoundVolume? Found, long? LinkSector);
