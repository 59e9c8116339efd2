using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Store;

namespace Keel.Core.Mending.Remedies;

/// <summary>Makes a Windows entry that is there the preferred one.</summary>
internal sealed class ChoosePreferred : IRemedy
{
    public IReadOnlyList<FindingKind> Mends => [ManagerEntryCheck.PreferredDangling];

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms)
    {
        if (machine.SystemVolume is not { } system || machine.Store.Store is not { Manager: { } manager } store) return Attempt.Refused("The store can't be read.", "Mend the store first.");
        if (store.WindowsEntries.FirstOrDefault() is not { } entry)
        {
            manager.Remove(Element.Preferred);
        }
        else
        {
            manager.Set(Element.Preferred, entry.Id);
            var order = manager.References(Element.MenuOrder).Where(id => store.Entry(id) is not null).ToList();
            manager.Set(Element.MenuOrder, order.Contains(entry.Id) ? order : [entry.Id, .. order]);
        }

        var bytes = store.ToBytes();
        var path = machine.Store.Path;
        system.Edit(files => files.WriteFile(path, bytes));
        return Attempt.Done(new Step(
            finding.Link,
            finding.Id,
            $"Prefer the entry \"{store.WindowsEntries.FirstOrDefault()?.Title ?? "none"}\".",
            [$"{path} on {system}: changed, {bytes.Length} bytes"]));
    }
}
