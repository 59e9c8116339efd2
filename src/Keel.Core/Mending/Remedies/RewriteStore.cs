using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Volumes;

namespace Keel.Core.Mending.Remedies;

/// <summary>Writes a store that can be read whole, with its logs applied, as a clean hive; what was there is set aside.</summary>
internal sealed class RewriteStore : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [StoreCheck.BadChecksum, StoreCheck.Torn];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } system || machine.Store.Store is not { } store)
            return Attempt.Refused("store-unreadable");
        var bytes = store.ToBytes();
        var path = machine.Store.Path;
        var details = new List<Remark>();
        system.Edit(files =>
        {
            details.AddRange(StoreRebuild.SetAside(files, path).Select(line => line.With(Fact.Volume.Is(system.Ref))));
            files.WriteFile(path, bytes);
            files.SetMarks(path, FileMarks.Archive);
        });
        details.Add(StoreRebuild.Made(path, system, bytes));
        details.Add(Remark.Of("line.entries-kept", Fact.EntryCount.Is(store.Entries.Count)));
        var summary = Remark.Of(finding.Kind == StoreCheck.Torn ? "step.store-from-log" : "step.store-anew");
        return Attempt.Done(new Step(Link.Store, finding.Id, summary, details));
    }
}
