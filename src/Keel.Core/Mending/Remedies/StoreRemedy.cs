using Keel.Core.Chain;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;

namespace Keel.Core.Mending.Remedies;

/// <summary>What remedies that change settings of a loaded store share: load, change, write back.</summary>
internal static class StoreRemedy
{
    /// <summary>Changes the machine's store; the change gives its summary, or null where there was nothing to change.</summary>
    public static Attempt Apply(Machine machine, Finding finding, Func<BootStore, Remark?> change)
    {
        if (machine.SystemVolume is not { } system || machine.Store.Store is not { } store)
            return Attempt.Refused("store-unreadable");
        if (change(store) is not { } summary) return Attempt.Refused("nothing-says");
        var bytes = store.ToBytes();
        var path = machine.Store.Path;
        system.Edit(files => files.WriteFile(path, bytes));
        return Attempt.Done(new Step(finding.Link, finding.Id, summary, StoreRebuild.Changed(path, system, bytes)));
    }
}
