using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;

namespace Keel.Core.Mending.Remedies;

/// <summary>Puts hidden sectors and mark of a boot sector right.</summary>
internal sealed class CorrectHiddenSectors : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [BootSectorCheck.WrongHidden, BootSectorCheck.MarkMissing];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } volume) return Attempt.Refused("system-volume-not-known");
        BootSectorEditor.PutPlaceRight(volume);
        var start = volume.Partition.Range.Start / volume.Blocks.SectorBytes;
        return Attempt.Done(new Step(
            Link.BootSector,
            finding.Id,
            Remark.Of("step.correct-place", Fact.Volume.Is(volume.Ref)),
            Remark.Of("line.hidden-sectors", Fact.HiddenSectors.Is(start))));
    }
}
