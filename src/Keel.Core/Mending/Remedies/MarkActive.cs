using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>Leaves the active mark on the system volume alone.</summary>
internal sealed class MarkActive : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
    [
        ActiveMarkCheck.TwoActive,
        ActiveMarkCheck.NoneActive,
        ActiveMarkCheck.WrongActive
    ];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms) =>
        machine.SystemVolume is { } system && !system.Partition.Logical
            ? Attempt.Done(Mark(machine, system, finding.Id))
            : Attempt.Refused("none-to-activate");

    internal static Step Mark(Machine machine, DiskVolume volume, string findingId)
    {
        var overlay = machine.StartDisk.Overlay;
        var record = new MasterBootRecord(overlay.ReadBytes(0, MasterBootRecord.Size));
        var details = new List<Remark>();
        for (var index = 0; index < MasterBootRecord.SlotCount; index++)
        {
            var active = index + 1 == volume.Number;
            if (record.Slot(index).Active == active) continue;
            record.SetActive(index, active);
            details.Add(Remark.Of("line.active", Fact.Partition.Is(index + 1), Fact.IsActive.Is(active)));
        }

        overlay.Write(0, record.ToBytes());
        return new Step(Link.ActiveMark, findingId, Remark.Of("step.mark-active", Fact.Volume.Is(volume.Ref)), details);
    }
}
