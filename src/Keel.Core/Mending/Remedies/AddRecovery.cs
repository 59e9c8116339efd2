using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Machines;

namespace Keel.Core.Mending.Remedies;

/// <summary>Lets the store lead to the recovery environment that is on the disk.</summary>
internal sealed class AddRecovery : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [RecoveryCheck.EntryMissing];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        var attempt = StoreRemedy.Apply(
            machine,
            finding,
            store => MissingRecovery.Add(machine, store, terms.NewId));
        return attempt.Step is { } step
            ? Attempt.Done(step with { Details = [.. step.Details, new StepDetail(StoreRebuild.UncheckedRamdiskForm())] })
            : attempt;
    }
}
