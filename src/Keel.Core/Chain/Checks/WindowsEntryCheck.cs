using Keel.Core.Store;

namespace Keel.Core.Chain.Checks;

/// <summary>The entry that starts when nobody chooses, and whether the volumes that it names are here.</summary>
internal sealed class WindowsEntryCheck : ILinkCheck
{
    public static readonly FindingKind Missing = new("entry-missing", Link.WindowsEntry, Severity.Error, "The store has no entry that starts Windows.", Screens.NameNotFound, Screens.FileInvalid, Screens.StoreIncomplete);
    public static readonly FindingKind StaleVolume = new("entry-stale-volume", Link.WindowsEntry, Severity.Error, "The Windows entry names a disk or partition that is not here.", Screens.NoSuchDevice, Screens.NotFoundElement);

    public Link Link => Link.WindowsEntry;

    public LinkReport Check(Machine machine)
    {
        if (machine.Store.Store is not { } store || store.Entries.Count == 0) return LinkReport.Unreached("the store can't be read or is empty");
        if (store.WindowsEntries.Count == 0) return LinkReport.Wrong(Missing, $"none of the {store.Entries.Count} entries starts Windows");
        if (Started(store) is not { } entry) return LinkReport.Unreached("the entry to be started is not in the store");

        uint[] elements = [Element.WindowsVolume, Element.ProgramVolume];
        var stale = elements.Select(entry.Device).FirstOrDefault(device => device is { IsPartition: true } && machine.VolumeOf(device) is null);
        if (stale is not null) return LinkReport.Wrong(StaleVolume, $"\"{entry.Title}\" is said to lie on {stale}, which is not here");
        return LinkReport.Sound($"\"{entry.Title}\": {entry.Text(Element.WindowsFolder)} on {machine.VolumeOf(entry.Device(Element.WindowsVolume))?.ToString() ?? "a device that is not checked"}");
    }

    /// <summary>The Windows entry that starts when nobody chooses.</summary>
    internal static BootEntry? Started(BootStore store) =>
        store.Preferred is { } preferred && store.Entry(preferred) is { } entry && entry.Type == EntryType.Windows ? entry : null;
}
