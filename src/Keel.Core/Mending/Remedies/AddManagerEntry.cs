using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;

namespace Keel.Core.Mending.Remedies;

/// <summary>Makes the boot manager's own entry again, and lists the Windows entries that are there.</summary>
internal sealed class AddManagerEntry : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [ManagerEntryCheck.Missing];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms) => StoreRemedy.Apply(machine, finding, store =>
    {
        var system = machine.SystemVolume!;
        var fresh = FreshStore.Build(
            system,
            machine.BootFiles,
            [],
            store.WindowsEntries.FirstOrDefault()?.Text(Element.Language) ?? "en-US",
            terms.Clock.GetUtcNow(),
            terms.NewId);
        store.Adopt(fresh.Manager!);
        foreach (var entry in fresh.Entries) store.Adopt(entry);
        foreach (var entry in store.WindowsEntries) StoreEditing.List(store, entry.Id);
        return Remark.Of("step.add-manager-entry", Fact.EntryCount.Is(store.WindowsEntries.Count));
    });
}
