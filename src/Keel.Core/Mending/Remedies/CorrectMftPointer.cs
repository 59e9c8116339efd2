using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.Mending.Remedies;

/// <summary>Lets a boot sector point at $MFT and its mirror again, where both stand where their own records say.</summary>
internal sealed class CorrectMftPointer : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [BootSectorCheck.WrongMft, WindowsVolumeHealth.WrongMft];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var volume = finding.Kind == BootSectorCheck.WrongMft ? machine.SystemVolume : finding.File?.VolumeIn(machine);
        if (volume is null
            || NtfsMirror.Of(volume.Blocks) is not { SaysMftCluster: { } mft, SaysMirrorCluster: { } mirrorCluster } mirror
            || !mirror.StandWhereTheySay(volume.Blocks))
        {
            return Attempt.Refused("records-elsewhere");
        }

        BootSectorEditor.SetMft(volume, mft, mirrorCluster);
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of("step.correct-mft-pointer", Fact.Volume.Is(volume.Ref)),
            Remark.Of("line.mft-cluster", Fact.NumberBefore.Is(mirror.Boot.MftCluster), Fact.NumberAfter.Is(mft)),
            Remark.Of(
                "line.mirror-cluster",
                Fact.NumberBefore.Is(mirror.Boot.MftMirrorCluster),
                Fact.NumberAfter.Is(mirrorCluster))));
    }
}
