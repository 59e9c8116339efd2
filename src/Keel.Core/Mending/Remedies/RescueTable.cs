using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Rescue;
using Keel.Core.Search;

namespace Keel.Core.Mending.Remedies;

/// <summary>Puts a lost table, or lost entries of one, back from the volumes that stand on the disk.</summary>
internal sealed class RescueTable : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
    [
        DiskLayoutCheck.NoTable,
        DiskLayoutCheck.BothDamaged,
        DiskLayoutCheck.LogicalDamaged,
        UnlistedVolumes.Kind
    ];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var disk = machine.StartDisk;
        if (disk.ReadErrors.Any) return Attempt.Refused("table-disk-fails");
        if (VolumeSearch.IsVolumeItself(disk.Overlay)) return Attempt.Refused("table-is-volume");
        var readings = TableRescue.Readings(disk, disk.QuickSearch(), terms.NewId);
        return readings switch
        {
            [_, _, ..] => Attempt.Refused("table-two-readings", Fact.Disk.Is(disk.Path)),
            [var only] when !only.New.Any() => Attempt.Refused("table-nothing-found", Fact.Disk.Is(disk.Path)),
            [{ IsCertain: false }] => Attempt.Refused("table-not-certain", Fact.Disk.Is(disk.Path)),
            [{ HoldsSystem: false }] when disk.Layout.Partitions.Count == 0
                => Attempt.Refused("table-no-system", Fact.Disk.Is(disk.Path)),
            [var only] => Write(disk, only, finding.Id) is { } step ? Attempt.Done(step) : Attempt.Refused("table-no-room"),
            _ => Attempt.Refused("table-nothing-found", Fact.Disk.Is(disk.Path))
        };
    }

    /// <summary>The step, done; null where the table has no room.</summary>
    internal static Step? Write(MachineDisk disk, TableReading reading, string findingId)
    {
        var isWhole = reading.Partitions.All(partition => partition.Origin != PartitionOrigin.Listed);
        var lines = reading.New.Select(partition => LineOf(partition, disk.Overlay.SectorBytes)).ToList();
        if (isWhole) lines.Add(IdentityLine(reading));
        if (!TableWriter.Write(disk.Overlay, reading)) return null;
        var scheme = Fact.Scheme.Is(reading.Scheme == PartitionScheme.Gpt ? "GPT" : "MBR");
        return new Step(
            Link.DiskLayout,
            findingId,
            isWhole
                ? Remark.Of("step.rescue-table", scheme)
                : Remark.Of("step.list-volumes", scheme, Fact.PartitionCount.Is(reading.New.Count())),
            lines)
        { IsGuess = true };
    }

    private static Remark LineOf(ReadPartition partition, int sectorBytes)
    {
        KnownFact[] facts =
        [
            Fact.Partition.Is(partition.Partition.Number),
            Fact.Type.Is(partition.Partition.TypeName),
            Fact.Sector.Is(partition.Partition.Range.Start / sectorBytes),
            Fact.SizeBytes.Is(partition.Partition.Range.Length)
        ];
        if (partition.Partition.IsExtended) return Remark.Of("line.extended-returns", facts);
        return partition.Found is { } found
            ? Remark.Of(
                "line.partition-returns",
                [.. facts, Fact.FileSystem.Is(found.Name), Fact.IsActive.Is(partition.Partition.Active)])
            : Remark.Of("line.partition-of-remains", facts);
    }

    private static Remark IdentityLine(TableReading reading)
    {
        var identity = Fact.Identity.Is($"{reading.Identity}");
        return reading.IdentityFrom switch
        {
            IdentityOrigin.Disk => Remark.Of("line.identity-of-disk", identity),
            IdentityOrigin.Remembered => Remark.Of("line.identity-remembered", identity),
            _ => Remark.Of("line.identity-new", identity)
        };
    }
}
