using Keel.Core.Store;

namespace Keel.Core.Chain.Checks;

/// <summary>The boot manager's own entry, and whether what it prefers exists.</summary>
internal sealed class ManagerEntryCheck : ILinkCheck
{
    public static readonly FindingKind Missing = new("manager-entry-missing", Link.ManagerEntry, Severity.Error, "The store has no entry for the boot manager.", Screens.NotFoundElement, Screens.StoreIncomplete, Screens.NameNotFound);
    public static readonly FindingKind PreferredDangling = new("preferred-dangling", Link.ManagerEntry, Severity.Error, "The preferred entry is not in the store.", Screens.NameNotFound, Screens.NotFoundElement);
    public static readonly FindingKind StaleVolume = new("manager-stale-volume", Link.ManagerEntry, Severity.Warning, "The boot manager's entry names a volume that is not here.", Screens.NoSuchDevice);

    public Link Link => Link.ManagerEntry;

    public LinkReport Check(Machine machine)
    {
        if (machine.Store.Store is not { } store || store.Entries.Count == 0) return LinkReport.Unreached("the store can't be read or is empty");
        if (store.Manager is not { } manager) return LinkReport.Wrong(Missing, $"{machine.Store.Path} has no entry {EntryId.Manager}");

        var findings = new List<Finding>();
        if (manager.Reference(Element.Preferred) is { } preferred && store.Entry(preferred) is null)
            findings.Add(PreferredDangling.At($"the boot manager prefers {preferred}, which is not in the store"));
        if (manager.Device(Element.ProgramVolume) is { IsPartition: true } device && machine.VolumeOf(device) is null)
            findings.Add(StaleVolume.At($"the boot manager is said to lie on {device}, which is not here"));
        var listed = manager.References(Element.MenuOrder).Count;
        return LinkReport.Of(findings.Count > 0 ? findings[0].Evidence : $"{listed} in the menu, preferred: {store.Entry(store.Preferred ?? default)?.Title ?? "none"}", findings);
    }
}
