using Keel.Core.Errors;

namespace Keel.Core.Store;

/// <summary>Changes to a store that touch more than one setting.</summary>
public static class StoreEditing
{
    /// <summary>Takes an entry out, with every reference to it.</summary>
    /// <param name="store">The store.</param>
    /// <param name="entry">The entry.</param>
    /// <param name="evenLast">Also where nothing would be started without it.</param>
    /// <param name="leadsNowhere">Whether an entry leads to what is not here; null where that is not known.</param>
    /// <exception cref="RefusedException">Nothing would be started without it.</exception>
    public static void Drop(BootStore store, BootEntry entry, bool evenLast, Func<BootEntry, bool>? leadsNowhere = null)
    {
        if (!evenLast && WhyNotDropped(store, entry, leadsNowhere ?? (_ => false)) is { } why)
        {
            throw new RefusedException(
                "Nothing was written.",
                why,
                "If that is meant, run the same command with --even-last.");
        }

        store.Drop(entry.Id);
        if (store.Manager is { } manager
            && manager.Reference(Element.Preferred) is null
            && manager.References(Element.MenuOrder).FirstOrDefault(id => store.Entry(id) is not null) is var first
            && first != default)
        {
            manager.Set(Element.Preferred, first);
        }
    }

    /// <summary>Why a machine would not start any more without an entry; null where it would, or did not before.</summary>
    private static string? WhyNotDropped(BootStore store, BootEntry entry, Func<BootEntry, bool> leadsNowhere)
    {
        if (entry.Id == EntryId.Manager)
            return $"\"{entry.Name}\" is the boot manager's own entry: without it nothing is started.";
        if (!IsWayToStart(entry)) return null;
        var others = store.Entries.Where(other => other.Id != entry.Id && IsWayToStart(other)).ToList();
        if (others.Count == 0) return $"\"{entry.Title}\" is the last entry that starts a system.";
        return !leadsNowhere(entry) && others.TrueForAll(other => leadsNowhere(other))
            ? $"\"{entry.Title}\" is the only entry that leads to a system; the others lead to what is not here."
            : null;
    }

    /// <summary>Puts these entries at the head of the menu, in this order; the others of the menu follow.</summary>
    /// <exception cref="RefusedException">Nothing starts by one of them.</exception>
    public static void Order(BootStore store, IReadOnlyList<BootEntry> entries)
    {
        foreach (var entry in entries) RequireStartable(entry);
        var ids = entries.Select(entry => entry.Id).Distinct().ToList();
        var manager = RequireManager(store);
        manager.Set(
            Element.MenuOrder,
            ids.Concat(manager.References(Element.MenuOrder).Where(id => !ids.Contains(id) && store.Entry(id) is not null)));
    }

    /// <summary>Makes an entry the preferred one, listed in the menu.</summary>
    /// <exception cref="RefusedException">Nothing starts by that entry.</exception>
    public static void Prefer(BootStore store, BootEntry entry)
    {
        RequireStartable(entry);
        var manager = RequireManager(store);
        manager.Set(Element.Preferred, entry.Id);
        var order = manager.References(Element.MenuOrder);
        if (!order.Contains(entry.Id)) manager.Set(Element.MenuOrder, order.Append(entry.Id));
    }

    /// <summary>Starts an entry the next time, and that time alone.</summary>
    /// <param name="store">The store.</param>
    /// <param name="entry">The entry.</param>
    /// <param name="safe">Starts it with that little; null as usual. It needs a copy of the entry, which stands in no
    ///     menu.</param>
    /// <returns>The entry that is started.</returns>
    /// <exception cref="RefusedException">Nothing starts by that entry.</exception>
    public static BootEntry Once(BootStore store, BootEntry entry, SafeStart? safe)
    {
        RequireStartable(entry);
        var started = safe is { } mode ? SafeCopy(store, entry, mode) : entry;
        RequireManager(store).Set(Element.OnceOnly, [started.Id]);
        return started;
    }

    /// <summary>The copy of an entry that starts safely; one that an earlier call made is used again.</summary>
    private static BootEntry SafeCopy(BootStore store, BootEntry entry, SafeStart mode)
    {
        const string ending = " (safe start)";
        if (entry.Type != EntryType.Windows)
        {
            throw new RefusedException(
                "Nothing was written.",
                $"\"{entry.Name}\" starts no Windows, and so has no safe start.",
                "Name the entry of a Windows, or leave --safe out.");
        }

        var title = entry.Title?.EndsWith(ending, StringComparison.Ordinal) == true ? entry.Title : entry.Name + ending;
        var listed = store.Manager?.References(Element.MenuOrder) ?? [];
        var copy = store.Entries.FirstOrDefault(other => other.Title == title && !listed.Contains(other.Id))
            ?? store.Copy(entry, new EntryId(Guid.NewGuid()));
        copy.Set(Element.Title, title);
        copy.Set(Element.SafeStart, mode == SafeStart.Network ? 1UL : 0UL);
        if (mode == SafeStart.Prompt) copy.Set(Element.SafeStartPrompt, true);
        else copy.Remove(Element.SafeStartPrompt);
        return copy;
    }

    /// <summary>How long the menu waits, whether it always shows, and how it looks; what is null stays.</summary>
    /// <param name="store">The store.</param>
    /// <param name="seconds">How long the menu waits, in seconds; null to leave it.</param>
    /// <param name="always">Whether the menu shows at every start; null to leave it.</param>
    /// <param name="graphical">The look, for every Windows entry.</param>
    public static void Menu(BootStore store, int? seconds, bool? always, bool? graphical)
    {
        var manager = RequireManager(store);
        if (seconds is { } wait) manager.Set(Element.MenuSeconds, (ulong)wait);
        if (always is { } show) manager.Set(Element.MenuAlways, show);
        if (graphical is not { } look) return;
        foreach (var entry in store.WindowsEntries) entry.Set(Element.MenuLook, look ? 1UL : 0UL);
    }

    /// <summary>A new entry at the end of the menu that starts any program.</summary>
    public static BootEntry AddProgram(
        BootStore store,
        Guid id,
        EntryType type,
        string title,
        BootDevice device,
        string programFile)
    {
        var entry = store.Add(type == EntryType.Nt5Loader ? EntryId.Nt5Loader : new EntryId(id), type);
        entry.Set(Element.ProgramVolume, device);
        entry.Set(Element.ProgramFile, programFile);
        entry.Set(Element.Title, title);
        List(store, entry.Id);
        return entry;
    }

    /// <summary>A new entry at the end of the menu that starts a Windows.</summary>
    public static BootEntry AddWindows(
        BootStore store,
        BootFiles files,
        Guid id,
        BootDevice device,
        string folder,
        string title,
        int build)
    {
        var entry = store.Add(new EntryId(id), EntryType.Windows);
        FreshStore.Fill(
            entry,
            files,
            device,
            folder,
            title,
            store.Manager?.Text(Element.Language) ?? "en-US",
            build);
        List(store, entry.Id);
        return entry;
    }

    /// <summary>A copy of an entry, at the end of the menu.</summary>
    public static BootEntry AddLike(BootStore store, BootEntry entry, Guid id, string? title)
    {
        var copy = store.Copy(entry, new EntryId(id));
        copy.Set(Element.Title, title ?? $"{entry.Title} (copy)");
        List(store, copy.Id);
        return copy;
    }

    /// <summary>Only programs can be started and stand in a menu, but neither the menu itself nor the firmware's list.</summary>
    /// <exception cref="RefusedException">It is none of these.</exception>
    internal static void RequireStartable(BootEntry entry)
    {
        if (entry.Type.IsApplication && entry.Type != EntryType.Manager && entry.Type != EntryType.FirmwareList) return;
        throw new RefusedException(
            "Nothing was written.",
            $"\"{entry.Name}\" is nothing that can be started, and has no place in the menu.",
            "'keel store list' shows what can be started.");
    }

    private static bool IsWayToStart(BootEntry entry) =>
        !entry.IsRecovery
        && (entry.Type == EntryType.Windows || entry.Type == EntryType.Nt5Loader || entry.Type == EntryType.BootSectorFile);

    internal static void List(BootStore store, EntryId id)
    {
        if (store.Manager is not { } manager) return;
        var order = manager.References(Element.MenuOrder);
        if (!order.Contains(id)) manager.Set(Element.MenuOrder, order.Append(id));
        if (manager.Reference(Element.Preferred) is null) manager.Set(Element.Preferred, id);
    }

    private static BootEntry RequireManager(BootStore store) => store.Manager
        ?? throw new UnreadableException(
            "The menu can't be changed.",
            "The store has no entry for the boot manager.",
            "Run 'keel mend' first.");
}
