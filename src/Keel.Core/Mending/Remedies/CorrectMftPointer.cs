using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>Lets a boot sector point at $MFT and its mirror again, where both stand where their own records say.</summary>
internal sealed class CorrectMftPointer : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [BootSectorCheck.WrongMft, WindowsVolumeHealth.WrongMft];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var volume = finding.Kind == BootSectorCheck.WrongMft ? machine.SystemVolume : finding.File?.VolumeIn(machine);
        if (volume is null || NtfsMirror.Of(volume.Blocks) is not { SaysMftCluster: { } mft, SaysMirrorCluster: { } mirrorCluster } mirror || !mirror.StandWhereTheySay(volume.Blocks))
            return Attempt.Refused("The records do not stand where they say, so neither they nor the boot sector can be trusted.", "Make an image of the disk, and have the data recovered from it before anything else.");
        BootSectorEditor.SetMft(volume, mft, mirrorCluster);
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            $"Let the boot sector of {volume} point at $MFT and its mirror where they stand.",
            [$"$MFT: cluster {mirror.Boot.MftCluster} becomes {mft}", $"its mirror: cluster {mirror.Boot.MftMirrorCluster} becomes {mirrorCluster}"]));
    }
}
