using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;

namespace Keel.Core.Mending.Remedies;

/// <summary>
/// Corrects slots of the old partition table that overlap others or end beyond the disk, by what the file systems say of
/// themselves.
/// </summary>
internal sealed class CorrectTable : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [DiskLayoutCheck.Overlap, DiskLayoutCheck.PastEnd, DiskLayoutCheck.BadMark];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var disk = machine.StartDisk;
        var layout = disk.Layout;
        if (layout.Scheme != PartitionScheme.Mbr) return CutBack(disk, finding);
        var record = new MasterBootRecord(disk.Overlay.ReadBytes(0, MasterBootRecord.Size));
        var details = new List<Remark>();
        for (var index = 0; index < MasterBootRecord.SlotCount; index++)
        {
            if (record.Slot(index).Mark is 0 or PartitionSlot.ActiveMark) continue;
            details.Add(
                Remark.Of("line.mark-becomes-00", Fact.Partition.Is(index + 1), Fact.Mark.Is($"{record.Slot(index).Mark:x2}")));
            record.SetActive(index, active: false);
        }

        // A partition whose file system stands where the slot says is trusted; only its length may be wrong.
        var primary = layout.Partitions.Where(partition => partition is { Logical: false, IsExtended: false }).ToList();
        var standing = primary.ToDictionary(
            partition => partition,
            partition => LostVolumes.At(disk.Overlay, partition.Range.Start));
        var covered =
            standing.Values
                .OfType<ByteRange>()
                .Concat(layout.Partitions.Where(partition => partition.IsExtended).Select(partition => partition.Range))
                .ToList();
        var lost = new Queue<ByteRange>(LostVolumes.Outside(disk.Overlay, covered));
        foreach (var partition in primary)
        {
            var wrong =
                partition.Range.End > disk.Overlay.LengthBytes
                    || primary.Exists(other => other != partition && other.Range.Overlaps(partition.Range));
            if (!wrong) continue;
            var range = standing[partition] ?? (lost.Count > 0 ? lost.Dequeue() : null);
            if (range is not { } right || right == partition.Range) continue;
            var slot = record.Slot(partition.Number - 1);
            record.SetSlot(
                partition.Number - 1,
                slot with
                {
                    FirstSector = (uint)(right.Start / layout.SectorBytes),
                    SectorCount = (uint)(right.Length / layout.SectorBytes)
                });
            details.Add(Remark.Of(
                "line.partition-moves",
                Fact.Partition.Is(partition.Number),
                Fact.NumberBefore.Is(slot.FirstSector),
                Fact.SectorsBefore.Is(slot.SectorCount),
                Fact.NumberAfter.Is(right.Start / layout.SectorBytes),
                Fact.SectorsAfter.Is(right.Length / layout.SectorBytes)));
        }

        if (details.Count == 0)
            return Attempt.Refused("table-not-told");

        disk.Overlay.Write(0, record.ToBytes());
        return Attempt.Done(new Step(Link.DiskLayout, finding.Id, Remark.Of("step.correct-table"), details));
    }

    /// <summary>
    /// A partition of a GPT that ends beyond the disk, and whose file system does not, is made as short as that.
    /// </summary>
    private static Attempt CutBack(MachineDisk disk, Finding finding)
    {
        if (finding.Kind != DiskLayoutCheck.PastEnd
            || disk.Volumes.FirstOrDefault(volume => volume.Partition.Range.End > disk.Overlay.LengthBytes) is not { } found
            || FileSystemClaim.Of(found) is not { } claim)
        {
            return Attempt.Refused("gpt-not-guessed");
        }

        return WidenPartition.Resize(disk, found, claim.WholeBytes, finding.Id);
    }
}
