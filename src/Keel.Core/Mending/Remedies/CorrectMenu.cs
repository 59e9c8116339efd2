using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Store;

namespace Keel.Core.Mending.Remedies;

/// <summary>Takes what is gone or double out of the menu, and lets it wait for an answer.</summary>
internal sealed class CorrectMenu : IRemedy
{
    private const int UsualSeconds = 30;

    public IReadOnlyList<FindingKind> Mends =>
    [
        ManagerEntryCheck.OrderDangling,
        ManagerEntryCheck.NoWait,
        WindowsEntryCheck.Duplicate
    ];

    public bool MayBeUnread => true;

    public Attempt Apply(Machine machine, Finding finding, RepairTerms terms) => StoreRemedy.Apply(machine, finding, store =>
    {
        if (store.Manager is not { } manager) return null;
        if (finding.Kind == ManagerEntryCheck.NoWait)
        {
            StoreEditing.Menu(store, UsualSeconds, always: null, graphical: null);
            return Remark.Of("step.menu-waits", Fact.Seconds.Is(UsualSeconds));
        }

        if (finding.Kind == ManagerEntryCheck.OrderDangling)
        {
            manager.Set(Element.MenuOrder, manager.References(Element.MenuOrder).Where(id => store.Entry(id) is not null));
            return Remark.Of("step.menu-without-gone");
        }

        var order = manager.References(Element.MenuOrder).ToList();
        var twins = store.WindowsEntries.Where(entry => order.Contains(entry.Id))
            .GroupBy(entry =>
                (machine.VolumeOf(entry.Device(Element.WindowsVolume)), entry.Text(Element.WindowsFolder), entry.Title))
            .SelectMany(group => group.OrderByDescending(entry => entry.Id == store.Preferred).Skip(1))
            .ToList();
        foreach (var twin in twins) store.Drop(twin.Id);
        return twins.Count == 0
            ? null
            : Remark.Of("step.drop-twins", Fact.EntryCount.Is(twins.Count), Fact.Title.Is(twins[0].Title ?? ""));
    });
}
