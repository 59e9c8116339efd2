using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Layout;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>Leaves the active mark on the system volume alone.</summary>
internal sealed class MarkActive : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [ActiveMarkCheck.TwoActive, ActiveMarkCheck.NoneActive, ActiveMarkCheck.WrongActive];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms) =>
        machine.SystemVolume is { } system && !system.Partition.Logical
            ? Attempt.Done(Mark(machine, system, finding.Id))
            : Attempt.Refused("No volume holds boot files, so none can be told to be the system volume.", "Name it: keel mbr activate DISK --volume N");

    internal static Step Mark(Machine machine, DiskVolume volume, string findingId)
    {
        var overlay = machine.StartDisk.Overlay;
        var record = new MasterBootRecord(overlay.ReadBytes(0, MasterBootRecord.Size));
        var details = new List<string>();
        for (var index = 0; index < MasterBootRecord.SlotCount; index++)
        {
            var active = index + 1 == volume.Number;
            if (record.Slot(index).Active == active) continue;
            record.SetActive(index, active);
            details.Add($"partition {index + 1}: {(active ? "becomes active" : "is no longer active")}");
        }

        overlay.Write(0, record.ToBytes());
        return new Step(Link.ActiveMark, findingId, $"Mark {volume} active, and no other.", details);
    }
}
