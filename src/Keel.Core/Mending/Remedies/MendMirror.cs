using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>Makes $MFT's first records and their mirror alike again.</summary>
internal sealed class MendMirror : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [WindowsVolumeHealth.MirrorDiffers, ManagerFileCheck.MirrorDiffers];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var volume = finding.Kind == ManagerFileCheck.MirrorDiffers ? machine.SystemVolume : finding.File?.VolumeIn(machine);
        if (volume is null || NtfsMirror.Of(volume.Blocks) is not { } state || !NtfsMirror.Mend(volume.Blocks))
            return Attempt.Refused("Neither $MFT's first records nor their mirror are whole.", "Make an image of the disk, and have the data recovered from it before anything else.");
        return Attempt.Done(new Step(
            finding.Link, finding.Id, $"Write the first records of {(state.MftIsGood ? "$MFT over their mirror" : "the mirror over $MFT")} on {volume}.", ["four file records; the other side was not whole, or older"]));
    }
}
