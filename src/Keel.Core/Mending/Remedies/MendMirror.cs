using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Volumes.Ntfs;

namespace Keel.Core.Mending.Remedies;

/// <summary>Makes $MFT's first records and their mirror alike again.</summary>
internal sealed class MendMirror : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [WindowsVolumeHealth.MirrorDiffers, ManagerFileCheck.MirrorDiffers];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var volume = finding.Kind == ManagerFileCheck.MirrorDiffers ? machine.SystemVolume : finding.File?.VolumeIn(machine);
        if (volume is null || NtfsMirror.Of(volume.Blocks) is not { } state || !NtfsMirror.Mend(volume.Blocks))
            return Attempt.Refused("mft-both-damaged");

        // The mirror holds four records; where more of $MFT is gone, they don't bring the volume back.
        var after = machine.Volumes.FirstOrDefault(candidate => candidate.Ref == volume.Ref);
        if (after is { Files: null, FilesProblem: not null })
            return Attempt.Refused("mirror-not-enough", Fact.Volume.Is(volume.Ref));
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of("step.mend-mirror", Fact.IsFirst.Is(state.MftIsGood), Fact.Volume.Is(volume.Ref)),
            Remark.Of("line.four-records")));
    }
}
