using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;

namespace Keel.Core.Mending.Remedies;

/// <summary>Takes the fields of a boot sector from its backup copy that the volume bears out; the rest stays as it is.</summary>
internal sealed class CorrectSectorFields : IRemedy
{
    public IReadOnlyList<FindingKind> Mends =>
        [BootSectorCheck.WrongFields, WindowsVolumeHealth.WrongFields, SystemVolumeCheck.WrongFields];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var place = finding.Seen.Facts.Get(Fact.Volume);
        if (machine.Volumes.FirstOrDefault(volume => volume.Ref == place) is not { SectorFault: { } fault } found)
            return Attempt.Refused("nothing-says");
        BootSectorEditor.WriteSector(found, fault.Kind, fault.Sector);
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of("step.correct-fields", Fact.Volume.Is(found.Ref)),
            Remark.Of("line.fields-of-copy", Fact.Names.Is(fault.Fields))));
    }
}
