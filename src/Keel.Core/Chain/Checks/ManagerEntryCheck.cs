using Keel.Core.Store;

namespace Keel.Core.Chain.Checks;

/// <summary>The boot manager's own entry, and whether what it prefers exists.</summary>
internal sealed class ManagerEntryCheck : ILinkCheck
{
    public static readonly FindingKind Missing = new("manager-entry-missing", Link.ManagerEntry, Severity.Error, "The store has no entry for the boot manager.", Screens.NotFoundElement, Screens.StoreIncomplete, Screens.NameNotFound);
    public static readonly FindingKind PreferredDangling = new("preferred-dangling", Link.ManagerEntry, Severity.Error, "The preferred entry is not in the store.", Screens.NameNotFound, Screens.NotFoundElement);
    public static readonly FindingKind StaleVolume = new("manager-stale-volume", Link.ManagerEntry, Severity.Warning, "The boot manager's entry names a volume that is not here.", Screens.NoSuchDevice);

    public static readonly FindingKind OrderDangling = new("order-dangling", Link.ManagerEntry, Severity.Warning, "The menu lists an entry that is not in the store.", Screens.NameNotFound);
    public static readonly FindingKind NoWait = new("wait-zero-no-menu", Link.ManagerEntry, Severity.Warning, "The menu has several entries and does not wait for an answer.");

    public Link Link => Link.ManagerEntry;

    public LinkReport Check(Machine machine)
    {
        if (machine.Store is not { Condition: StoreCondition.Loaded, Store: { Entries.Count: > 0 } store }) return LinkReport.Unreached("the store can't be read or is empty");
        var findings = FindingsOf(store).ToList();
        if (store.Manager is not { } manager) return LinkReport.Of(findings[0].Evidence, findings);
        if (manager.Device(Element.ProgramVolume) is { IsPartition: true } device && machine.VolumeOf(device) is null)
            findings.Add(StaleVolume.At($"the boot manager is said to lie on {device}, which is not here"));
        var listed = manager.References(Element.MenuOrder).Count;
        return LinkReport.Of(findings.Count > 0 ? findings[0].Evidence : $"{listed} in the menu, preferred: {store.Entry(store.Preferred ?? default)?.Title ?? "none"}", findings);
    }

    /// <summary>What the store says of itself, without the disks.</summary>
    internal static IEnumerable<Finding> FindingsOf(BootStore store)
    {
        if (store.Manager is not { } manager)
        {
            yield return Missing.At($"the store has no entry {EntryId.Manager}");
            yield break;
        }

        if (manager.Reference(Element.Preferred) is { } preferred && store.Entry(preferred) is null)
            yield return PreferredDangling.At($"the boot manager prefers {preferred}, which is not in the store");
        var order = manager.References(Element.MenuOrder);
        if (order.Where(id => store.Entry(id) is null).ToList() is { Count: > 0 } gone)
            yield return OrderDangling.At($"the menu lists {string.Join(" and ", gone)}, which {(gone.Count == 1 ? "is" : "are")} not in the store");
        if (manager.Number(Element.MenuSeconds) == 0 && order.Count(id => store.Entry(id) is not null) > 1)
            yield return NoWait.At($"menu-seconds is 0, and the menu has {order.Count} entries");
    }
}
