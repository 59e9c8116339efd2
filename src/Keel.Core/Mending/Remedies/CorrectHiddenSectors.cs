using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;

namespace Keel.Core.Mending.Remedies;

/// <summary>Puts hidden sectors and mark of a boot sector right.</summary>
internal sealed class CorrectHiddenSectors : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [BootSectorCheck.WrongHidden, BootSectorCheck.MarkMissing];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } volume) return Attempt.Refused("The system volume is not known.", "Name it with --volume.");
        BootSectorEditor.PutPlaceRight(volume);
        var start = volume.Partition.Range.Start / volume.Blocks.SectorBytes;
        return Attempt.Done(new Step(Link.BootSector, finding.Id, $"Put the place of {volume} right in its boot sector.", [$"hidden sectors {start}, 55 AA at the end; code and parameters stay as they are"]));
    }
}
