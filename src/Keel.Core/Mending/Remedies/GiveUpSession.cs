using Keel.Core.Chain;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;

namespace Keel.Core.Mending.Remedies;

/// <summary>
/// Gives up the session of a hibernated Windows: the head of its file, by which it is resumed, and what the store says of that.
/// The rest of the file stays.
/// </summary>
internal sealed class GiveUpSession : IRemedy
{
    private const int MarkBytes = 4;

    public IReadOnlyList<FindingKind> Mends => [WindowsVolumeHealth.Hibernated];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (finding.File?.VolumeIn(machine) is not { } volume) return Attempt.Refused("nothing-says");
        volume.GiveUpSession(files => files.Patch(WindowsVolumeHealth.HibernationFile, 0, new byte[MarkBytes]));
        List<StepDetail> details =
        [
            StepDetail.Lost(Loss.Session, Remark.Of("line.session-lost")),
            Remark.Of("line.hibernation-head", Fact.Path.Is(WindowsVolumeHealth.HibernationFile), Fact.Volume.Is(volume.Ref))
        ];
        if (machine.SystemVolume is { } system && machine.Store.Store is { } store
            && store.Manager is { } manager && manager.Number(Element.ResumePending) == 1)
        {
            manager.Set(Element.ResumePending, false);
            var (bytes, path) = (store.ToBytes(), machine.Store.Path);
            system.Edit(files => files.WriteFile(path, bytes));
            details.AddRange(StoreRebuild.Changed(path, system, bytes));
        }

        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            Remark.Of("step.give-up-session", Fact.Volume.Is(volume.Ref)),
            details)
        { Consent = StepConsent.GivesUpSession });
    }
}
