using Keel.Core.Volumes;

namespace Keel.Core.Store;

/// <summary>What a user would see of a store: the menu, what entries point at, settings with where they come from.</summary>
public static class StoreOutline
{
    private const int InheritLimit = 32;

    /// <summary>A setting of an entry.</summary>
    /// <param name="Name">Its name.</param>
    /// <param name="Element">The number of the element.</param>
    /// <param name="Owner">The entry that holds it.</param>
    /// <param name="From">The name of the entry that it is inherited from; null for its own.</param>
    public sealed record Row(string Name, uint Element, BootEntry Owner, string? From);

    /// <summary>The entries in the menu, in order.</summary>
    public static IReadOnlyList<EntryId> Menu(BootStore store) => store.Manager?.References(Element.MenuOrder) ?? [];

    /// <summary>One sentence on the menu.</summary>
    public static string MenuSentence(BootStore store)
    {
        if (store.Manager is not { } manager) return "The store has no boot manager entry, so there is no menu.";
        var count = Menu(store).Count;
        var shown = count > 1 || manager.Value(Element.MenuAlways) is { Data: [not 0, ..] };
        var seconds = manager.Number(Element.MenuSeconds);
        var wait = seconds is null ? "as long as the boot manager usually does" : $"{seconds} seconds";
        return !shown ? $"The menu has {count} entr{(count == 1 ? "y" : "ies")} and is not shown."
            : seconds == 0 ? $"The menu has {count} entries and does not wait for an answer."
            : $"The menu has {count} entries and waits {wait}.";
    }

    /// <summary>What an entry points at, and whether it is there.</summary>
    /// <param name="entry">The entry.</param>
    /// <param name="names">Tells an entry's name.</param>
    /// <param name="volumeOf">Finds the volume of a device; null where the disks are not known.</param>
    public static string Target(BootEntry entry, IDeviceNames names, Func<BootDevice, DiskVolume?>? volumeOf)
    {
        if (!entry.Type.IsApplication) return entry.Type.Name;
        if (entry.Device(Element.ProgramVolume) is not { } device) return "no volume named";
        var file = entry.Text(Element.ProgramFile);
        var parts = new List<string> { names.Describe(device) };
        if (entry.Type == EntryType.Windows && entry.Text(Element.WindowsFolder) is { } folder) parts.Add(folder);
        if (file is not null) parts.Add(VolumeExtensions.NameOf(file) + Presence(device, file, volumeOf));
        return string.Join(", ", parts);
    }

    /// <summary>An entry's own settings, then those it inherits and does not set itself.</summary>
    public static IReadOnlyList<Row> Settings(BootStore store, BootEntry entry)
    {
        var rows = entry.Elements
            .Order()
            .Select(element => new Row(Keel.Core.Store.Settings.NameOf(element, entry.Type), element, entry, From: null))
            .ToList();
        var seen = new HashSet<EntryId> { entry.Id };
        var waiting = new Queue<EntryId>(entry.References(Element.SettingsFrom));
        while (waiting.Count > 0 && seen.Count < InheritLimit)
        {
            var id = waiting.Dequeue();
            if (!seen.Add(id) || store.Entry(id) is not { } source) continue;
            foreach (var element in source.Elements
                .Order()
                .Where(element => element != Element.SettingsFrom && rows.TrueForAll(row => row.Element != element)))
            {
                rows.Add(new Row(Keel.Core.Store.Settings.NameOf(element, entry.Type), element, source, NameOf(id)));
            }

            foreach (var next in source.References(Element.SettingsFrom)) waiting.Enqueue(next);
        }

        return rows;
    }

    private static string Presence(BootDevice device, string file, Func<BootDevice, DiskVolume?>? volumeOf)
    {
        if (volumeOf is null) return "";
        return volumeOf(device)?.Files is { } files ? (files.FileExists(file) ? " present" : " MISSING") : "";
    }

    /// <summary>The name of an entry that has no title: what it is for.</summary>
    internal static string NameOf(EntryId id) =>
        id == EntryId.EverySettings ? "settings: everything"
            : id == EntryId.WindowsSettings ? "settings: Windows loaders"
            : id == EntryId.ResumeSettings ? "settings: resume loaders"
        : id == EntryId.DebuggerSettings ? "settings: debugger"
            : id == EntryId.SerialSettings ? "settings: serial management"
            : id == EntryId.BadMemorySettings ? "settings: bad memory"
        : id == EntryId.VirtualisationSettings ? "settings: hypervisor" : id.ToString();
}
