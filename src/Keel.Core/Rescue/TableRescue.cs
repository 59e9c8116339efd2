using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Search;

namespace Keel.Core.Rescue;

/// <summary>
/// Puts a partition table together from what stands on the disk: volumes, remains of tables, and what is remembered.
/// </summary>
public sealed class TableRescue
{
    private const int ReadingLimit = 4, NumberLimit = 1_000_000;
    private readonly MachineDisk disk;
    private readonly Func<Guid> newId;
    private readonly GptRemains remains;

    private TableRescue(MachineDisk disk, SearchResult search, Func<Guid> newId)
    {
        this.disk = disk;
        this.newId = newId;
        remains = GptRemains.Of(disk.Overlay, search.Volumes.Select(volume => volume.Range.End));
    }

    private int SectorBytes => disk.Overlay.SectorBytes;

    /// <summary>The ways in which the disk can be read, the likeliest first; never empty.</summary>
    /// <param name="disk">The disk.</param>
    /// <param name="search">What was found on it.</param>
    /// <param name="newId">Gives a new identifier, where none is remembered.</param>
    /// <exception cref="RefusedException">A volume has larger sectors than the disk is read in.</exception>
    public static IReadOnlyList<TableReading> Readings(MachineDisk disk, SearchResult search, Func<Guid> newId)
    {
        RefuseOtherSectors(disk, search);
        var rescue = new TableRescue(disk, search, newId);
        var readings = new List<TableReading> { rescue.Read(search.Volumes) };
        foreach (var rival in search.Rivals.Take(ReadingLimit - 1))
        {
            var others = search.Volumes.Where(volume => !volume.Range.Overlaps(rival.Range));
            readings.Add(rescue.Read([.. others.Append(rival).OrderBy(volume => volume.Range.Start)]));
        }

        return readings;
    }

    /// <summary>An image does not tell its sectors once its table is lost; the file systems do.</summary>
    private static void RefuseOtherSectors(MachineDisk disk, SearchResult search)
    {
        var own = disk.Overlay.SectorBytes;
        if (search.Volumes.FirstOrDefault(volume => volume.SectorBytes > own) is not { } larger) return;
        throw new RefusedException(
            "The table was not written anew.",
            $"The {larger.Name} volume at byte {larger.Range.Start} has sectors of {larger.SectorBytes} bytes, and the disk is "
                + $"read in sectors of {own}.",
            $"If that is the size of the disk's sectors, run the same command with --sector {larger.SectorBytes}.");
    }

    private TableReading Read(IReadOnlyList<FoundVolume> volumes)
    {
        var layout = disk.Layout;
        var isUsable = layout.Partitions.Count > 0;
        var listed = isUsable ? layout.Partitions : [];
        var fresh = volumes
            .Where(volume => !listed.Any(partition => !partition.IsExtended && partition.Range.Overlaps(volume.Range)))
            .ToList();
        var contents = fresh.Select((volume, index) => VolumeContents.Of(disk, volume, index + 1)).ToList();
        try
        {
            var claims = DiskClaims.Of(contents);
            var scheme = isUsable ? layout.Scheme : SchemeOf(contents, claims);
            var reading = scheme == PartitionScheme.Gpt ? AsGpt(listed, contents, claims) : AsMbr(listed, contents, claims);
            var holdsSystem = contents.Exists(volume =>
                volume.IsEfiSystem || volume.HoldsBiosFiles || volume.Installations.Count > 0);
            return reading with { HoldsSystem = holdsSystem };
        }
        finally
        {
            contents.ForEach(volume => volume.Dispose());
        }
    }

    private PartitionScheme SchemeOf(List<VolumeContents> contents, DiskClaims claims)
    {
        if (disk.Layout.Scheme != PartitionScheme.None) return disk.Layout.Scheme;
        var startsByBios = contents.Exists(volume => volume.HoldsBiosFiles);
        var startsByUefi = contents.Exists(volume => volume.IsEfiSystem);
        if (startsByBios != startsByUefi) return startsByBios ? PartitionScheme.Mbr : PartitionScheme.Gpt;
        return remains.Any || claims.SpeakOfGpt ? PartitionScheme.Gpt : PartitionScheme.Mbr;
    }

    private TableReading AsGpt(IReadOnlyList<Partition> listed, List<VolumeContents> contents, DiskClaims claims)
    {
        var partitions = listed.Select(partition => new ReadPartition(partition, PartitionOrigin.Listed, null, null)).ToList();
        var used = listed.Select(partition => partition.Number).ToHashSet();
        foreach (var remain in listed.Count == 0 ? remains.Partitions : [])
        {
            // What the remains name is taken where nothing that was found contradicts it.
            var inside = contents.Where(volume => volume.Found.Range.Overlaps(remain.Range)).ToList();
            if (inside.Exists(volume => !Holds(remain.Range, volume.Found.Range))) continue;
            if (inside.Count > 1 || !used.Add(remain.Number)) continue;
            partitions.Add(new ReadPartition(remain, PartitionOrigin.Remains, inside.FirstOrDefault()?.Found, null));
        }

        foreach (var volume in contents.Where(volume =>
            !partitions.Exists(known => known.Partition.Range.Overlaps(volume.Found.Range))))
        {
            var number = Enumerable.Range(1, NumberLimit).First(used.Add);
            var (type, name) = PartitionKinds.OfGpt(volume);
            var partition = new Partition(
                number,
                volume.Found.Range,
                MbrType: 0,
                type,
                claims.PartitionGuid(volume) ?? newId(),
                Active: false,
                Logical: false,
                name)
            {
                Attributes = PartitionKinds.AttributesOf(type)
            };
            partitions.Add(new ReadPartition(partition, PartitionOrigin.Found, volume.Found, null));
        }

        var (guid, from) = disk.Layout.Identity.Guid is var own && own != default ? (own, IdentityOrigin.Disk)
            : remains.DiskGuid != default ? (remains.DiskGuid, IdentityOrigin.Disk)
            : claims.DiskGuid is { } remembered ? (remembered, IdentityOrigin.Remembered)
            : (newId(), IdentityOrigin.New);
        return new TableReading(PartitionScheme.Gpt, DiskIdentity.OfGpt(guid), from, InOrder(partitions));
    }

    private TableReading AsMbr(IReadOnlyList<Partition> listed, List<VolumeContents> contents, DiskClaims claims)
    {
        var partitions = listed
            .Select(partition => new ReadPartition(
                partition,
                PartitionOrigin.Listed,
                null,
                partition.Logical ? LogicalLink.Before(disk.Overlay, partition.Range.Start / SectorBytes)?.Sector : null))
            .ToList();
        var used = listed.Select(partition => partition.Number).ToHashSet();
        var mayBeActive = !listed.Any(partition => partition.Active);
        var chain = new LogicalChainRescue(disk.Overlay, listed, [.. contents.Select(volume => volume.Found.Range)]);
        foreach (var volume in contents)
        {
            var (linkSector, range, type) = chain.LinkOf(volume.Found.Range);
            var firstNumber = linkSector is null ? 1 : MasterBootRecord.SlotCount + 1;
            var isActive = mayBeActive && linkSector is null && volume.HoldsBiosFiles;
            if (isActive) mayBeActive = false;
            partitions.Add(new ReadPartition(
                new Partition(
                    Enumerable.Range(firstNumber, NumberLimit).First(used.Add),
                    range,
                    type ?? PartitionKinds.OfMbr(volume),
                    GptType: default,
                    Id: default,
                    isActive,
                    Logical: linkSector is not null,
                    Name: ""),
                PartitionOrigin.Found,
                volume.Found,
                linkSector));
        }

        var starts = partitions.Select(partition => partition.Partition.Range.Start).ToHashSet();
        var standing = disk.Overlay.TryReadAnyway(0, MasterBootRecord.Size) is { } sector
            ? new MasterBootRecord(sector).Signature
            : 0;
        var (signature, from) = listed.Count > 0 ? (standing, IdentityOrigin.Disk)
            : claims.SignatureFor(starts) is { } remembered
                ? (remembered, remembered == standing ? IdentityOrigin.Disk : IdentityOrigin.Remembered)
            : standing != 0 ? (standing, IdentityOrigin.Disk)
            : (BitConverter.ToUInt32(newId().ToByteArray()), IdentityOrigin.New);
        return new TableReading(
            PartitionScheme.Mbr,
            DiskIdentity.OfMbr(signature),
            from,
            InOrder(WithExtended(partitions, used)));
    }

    /// <summary>Adds, or widens, the extended partition that holds the links of the logical ones.</summary>
    private List<ReadPartition> WithExtended(List<ReadPartition> partitions, HashSet<int> used)
    {
        var logical = partitions.Where(partition => partition.LinkSector is not null).ToList();
        if (logical.Count == 0) return partitions;
        var start = logical.Min(partition => partition.LinkSector!.Value) * SectorBytes;
        var end = logical.Max(partition => partition.Partition.Range.End);
        if (partitions.Find(partition => partition.Partition.IsExtended) is { } extended)
        {
            if (extended.Partition.Range.Start <= start && extended.Partition.Range.End >= end) return partitions;
            partitions.Remove(extended);
            used.Remove(extended.Partition.Number);
        }

        var number = Enumerable.Range(1, MasterBootRecord.SlotCount).FirstOrDefault(slot => !used.Contains(slot));
        partitions.Add(new ReadPartition(
            new Partition(
                number,
                new ByteRange(start, end - start),
                PartitionTypes.ExtendedLba,
                GptType: default,
                Id: default,
                Active: false,
                Logical: false,
                Name: ""),
            PartitionOrigin.Found,
            null,
            null));
        return partitions;
    }

    private static bool Holds(ByteRange outer, ByteRange inner) => inner.Start >= outer.Start && inner.End <= outer.End;

    private static List<ReadPartition> InOrder(List<ReadPartition> partitions) =>
        [.. partitions.OrderBy(partition => partition.Partition.Number)];
}
