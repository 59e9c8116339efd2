using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;

namespace Keel.Core.Mending.Remedies;

/// <summary>Makes a Windows entry that is there the preferred one, and lists it.</summary>
internal sealed class ChoosePreferred : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [
        ManagerEntryCheck.PreferredDangling,
        ManagerEntryCheck.StartsNothing,
        ManagerEntryCheck.StartsRecovery,
        WindowsEntryCheck.Unlisted
    ];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms) => StoreRemedy.Apply(machine, finding, store =>
    {
        if (store.Manager is not { } manager) return null;
        if (store.WindowsEntries.FirstOrDefault() is not { } entry)
        {
            manager.Remove(Element.Preferred);
            return Remark.Of("step.prefer-none");
        }

        StoreEditing.Prefer(store, entry);
        return Remark.Of("step.prefer", Fact.Title.Is(entry.Title ?? ""));
    });
}
