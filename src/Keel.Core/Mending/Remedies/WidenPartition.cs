using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>
/// Lets a partition end where its file system ends: longer, where there is room behind it; shorter, where it goes beyond a GPT
/// disk and its file system does not.
/// </summary>
internal sealed class WidenPartition : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [DiskLayoutCheck.TooSmall];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var disk = machine.StartDisk;
        var number = finding.Seen.Facts.Get(Fact.Partition);
        if (disk.Volumes.FirstOrDefault(volume => volume.Number == number) is not { } found
            || FileSystemClaim.Of(found) is not { } claim)
        {
            return Attempt.Refused("nothing-says");
        }

        return Resize(disk, found, claim.WholeBytes, finding.Id);
    }

    /// <summary>Gives a partition the size of its file system.</summary>
    internal static Attempt Resize(MachineDisk disk, DiskVolume volume, long bytes, string findingId)
    {
        var before = volume.Partition.Range;
        var after = new ByteRange(before.Start, bytes);
        var isInTheWay = disk.Layout.Partitions.Any(other =>
            other.Number != volume.Number && !other.IsExtended && other.Range.Overlaps(after));
        if (isInTheWay || after.End > LastByte(disk)) return Attempt.Refused("partition-no-room", Fact.Volume.Is(volume.Ref));
        var refusal = disk.Layout.Scheme == PartitionScheme.Gpt
            ? ResizeInGpt(disk, volume, after)
            : ResizeInMbr(disk, volume, after);
        if (refusal is not null) return Attempt.Refused(refusal, Fact.Volume.Is(volume.Ref));
        var sectorBytes = disk.Overlay.SectorBytes;
        return Attempt.Done(new Step(
            Link.DiskLayout,
            findingId,
            Remark.Of("step.resize-partition", Fact.Partition.Is(volume.Number)),
            Remark.Of(
                "line.partition-resized",
                Fact.Partition.Is(volume.Number),
                Fact.SectorsBefore.Is(before.Length / sectorBytes),
                Fact.SectorsAfter.Is(after.Length / sectorBytes))));
    }

    /// <summary>Behind the volumes of a GPT disk stands the second copy of its table.</summary>
    private static long LastByte(MachineDisk disk)
    {
        const int tableBytes = GptHeader.UsualEntryBytes * (int)GptHeader.UsualEntryCount;
        return disk.Layout.Scheme == PartitionScheme.Gpt
            ? disk.Overlay.LengthBytes - tableBytes - disk.Overlay.SectorBytes
            : disk.Overlay.LengthBytes;
    }

    private static string? ResizeInGpt(MachineDisk disk, DiskVolume volume, ByteRange range) =>
        GptEditor.SetEnd(disk.Overlay, volume.Number, (range.End / disk.Overlay.SectorBytes) - 1) switch
        {
            GptEditResult.Done => null,
            GptEditResult.CopiesDiffer => "gpt-copies-differ",
            GptEditResult.NoRoom => "gpt-no-room",
            _ => "gpt-no-sound-copy"
        };

    private static string? ResizeInMbr(MachineDisk disk, DiskVolume volume, ByteRange range)
    {
        var sectorBytes = disk.Overlay.SectorBytes;
        var first = range.Start / sectorBytes;
        var isLogical = volume.Partition.Logical;
        if ((isLogical ? LogicalLink.Before(disk.Overlay, first)?.Sector : 0) is not { } sector) return "table-link-not-found";
        if (range.Length / sectorBytes > uint.MaxValue) return "partition-no-room";
        var record = new MasterBootRecord(disk.Overlay.ReadBytes(sector * sectorBytes, MasterBootRecord.Size));
        var index = isLogical ? 0 : volume.Number - 1;
        record.SetSlot(index, record.Slot(index) with { SectorCount = (uint)(range.Length / sectorBytes) });
        disk.Overlay.Write(sector * sectorBytes, record.ToBytes());
        return null;
    }
}
