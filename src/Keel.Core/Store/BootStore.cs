using Keel.Core.Hives;

namespace Keel.Core.Store;

/// <summary>A boot configuration store: the entries in a registry hive.</summary>
public sealed class BootStore
{
    private const string ObjectsKey = "Objects";
    private const uint UsualMinorVersion = 3;
    private readonly HiveNode root;
    private readonly uint minor;
    private readonly uint sequence;
    private Lazy<(IReadOnlyList<BootEntry> List, Dictionary<EntryId, BootEntry> ById)> known;

    private BootStore(HiveNode root, uint minor, uint sequence, IReadOnlyList<string> damage)
    {
        this.root = root;
        this.minor = minor;
        this.sequence = sequence;
        Damage = damage;
        known = Index();
    }

    /// <summary>What of the hive could not be read, in words; empty for a sound one.</summary>
    public IReadOnlyList<string> Damage { get; }

    /// <summary>The entries, in the order of the hive.</summary>
    public IReadOnlyList<BootEntry> Entries => known.Value.List;

    internal HiveNode Root => root;

    /// <summary>The minor version of the hive.</summary>
    internal uint Minor => minor;

    /// <summary>The boot manager's entry; null where the store has none.</summary>
    public BootEntry? Manager => Entry(EntryId.Manager);

    /// <summary>
    /// The entries that start a Windows, those in the menu first and in its order; a recovery environment is none of them.
    /// </summary>
    public IReadOnlyList<BootEntry> WindowsEntries
    {
        get
        {
            var order = Manager?.References(Element.MenuOrder) ?? [];
            return [.. Entries
                .Where(entry => entry.StartsWindows)
                .OrderBy(entry => order.Contains(entry.Id) ? order.ToList().IndexOf(entry.Id) : int.MaxValue)];
        }
    }

    /// <summary>
    /// The Windows entry that starts when nobody chooses; where that is another system, the first Windows of the menu.
    /// </summary>
    internal BootEntry? Started
    {
        get
        {
            if (Preferred is not { } preferred || Entry(preferred) is not { } entry) return null;
            if (entry.StartsWindows || StartsOnlyImage) return entry;
            if (!entry.StartsOther && !entry.IsRecovery) return null;
            var menu = Manager?.References(Element.MenuOrder) ?? [];
            return menu.Select(Entry).OfType<BootEntry>().FirstOrDefault(listed => listed.StartsWindows)
                ?? (entry.IsRecovery ? WindowsEntries[0] : null);
        }
    }

    /// <summary>Whether it only starts an image that is unpacked into memory, as the store of a medium does.</summary>
    public bool StartsOnlyImage => WindowsEntries.Count == 0 && Preferred is { } id && Entry(id) is { IsRecovery: true };

    /// <summary>Reads a store.</summary>
    /// <exception cref="HiveDamagedException">The hive has no readable root.</exception>
    public static BootStore Read(byte[] file)
    {
        var hive = Hive.Open(file);
        var root = hive.ReadTree();
        return new BootStore(root, hive.Header.Minor, hive.Header.PrimarySequence, hive.Damage);
    }

    /// <summary>
    /// What can still be found of a store whose hive is broken: every entry whose keys survive, with an account of what was lost.
    /// </summary>
    public static BootStore Salvage(byte[] file)
    {
        var losses = new List<string>();
        var found = new HashSet<EntryId>();
        var store = Empty(DateTimeOffset.UnixEpoch);           // the time in a broken hive may be anything
        foreach (var node in HiveSalvage
            .Find(file, name => EntryId.TryParse(name) is not null, losses)
            .Where(node => node.Child("Description") is not null || node.Child("Elements") is not null))
        {
            var id = EntryId.TryParse(node.Name)!.Value;
            if (found.Add(id)) store.root.ChildOrNew(ObjectsKey).Children.Add(node);
        }

        return new BootStore(
            store.root,
            UsualMinorVersion,
            0,
            losses.Count > 0 ? losses : ["the hive could only be read in parts"]);
    }

    /// <summary>A store over a tree of keys.</summary>
    internal static BootStore Of(HiveNode root, uint minor) => new(root, minor, sequence: 0, []);

    /// <summary>A valid store without entries.</summary>
    /// <param name="written">The time that its keys carry.</param>
    public static BootStore Empty(DateTimeOffset written)
    {
        var root = new HiveNode("NewStoreRoot") { LastWritten = written.ToFileTime() };
        root.ChildOrNew("Description")
            .Set(HiveValue.OfText("KeyName", "BCD00000000"))
            .Set(HiveValue.OfNumber("System", 1))
            .Set(HiveValue.OfNumber("TreatAsSystem", 1));
        root.ChildOrNew(ObjectsKey);
        return new BootStore(root, UsualMinorVersion, sequence: 0, []);
    }

    /// <summary>Whether the next start, and that alone, goes to an entry.</summary>
    public bool StartsOnce(EntryId id) => Manager?.References(Element.OnceOnly).Contains(id) == true;

    /// <summary>The entry of that id; null where the store has none.</summary>
    public BootEntry? Entry(EntryId id) => known.Value.ById.GetValueOrDefault(id);

    /// <summary>The entry that starts when nobody chooses: the preferred one, or else the first of the menu.</summary>
    public EntryId? Preferred =>
        Manager?.Reference(Element.Preferred) ?? Manager?.References(Element.MenuOrder).Cast<EntryId?>().FirstOrDefault();

    /// <summary>The bytes of the store's file.</summary>
    public byte[] ToBytes() => HiveWriter.Write(root, Math.Clamp(minor, UsualMinorVersion, 6), sequence + 1);

    /// <summary>Takes an entry out, and every reference to it.</summary>
    internal void Drop(EntryId id)
    {
        root.Child(ObjectsKey)?.Children.RemoveAll(node => EntryId.TryParse(node.Name) == id);
        known = Index();
        foreach (var entry in Entries) DropReferences(entry, id);
    }

    /// <summary>A copy of an entry under a new identifier.</summary>
    internal BootEntry Copy(BootEntry entry, EntryId id)
    {
        root.ChildOrNew(ObjectsKey).Children.Add(entry.Node.Clone(id.ToString()));
        known = Index();
        return Entry(id)!;
    }

    /// <summary>Takes an entry of another store over as it is; one of the same identifier stays.</summary>
    internal void Adopt(BootEntry entry)
    {
        if (Entry(entry.Id) is not null) return;
        root.ChildOrNew(ObjectsKey).Children.Add(entry.Node.Clone(entry.Node.Name));
        known = Index();
    }

    private static void DropReferences(BootEntry entry, EntryId id)
    {
        foreach (var element in entry.Elements.ToList())
        {
            if (Setting.FormatOf(element) == SettingFormat.Entry && entry.Reference(element) == id) entry.Remove(element);
            if (Setting.FormatOf(element) == SettingFormat.EntryList && entry.References(element).Contains(id))
                entry.Set(element, entry.References(element).Where(other => other != id));
        }
    }

    internal BootEntry Add(EntryId id, EntryType type)
    {
        if (Entry(id) is not { } entry)
        {
            var node = new HiveNode(id.ToString()) { LastWritten = root.LastWritten, Security = root.Security };
            root.ChildOrNew(ObjectsKey).Children.Add(node);
            entry = new BootEntry(node, id);
            known.Value.ById.Add(id, entry);
            ((List<BootEntry>)known.Value.List).Add(entry);
        }

        entry.SetType(type);
        entry.Node.ChildOrNew("Elements");
        return entry;
    }

    private Lazy<(IReadOnlyList<BootEntry> List, Dictionary<EntryId, BootEntry> ById)> Index() => new(() =>
    {
        var byId = new Dictionary<EntryId, BootEntry>();
        var list = new List<BootEntry>();
        foreach (var node in root.Child(ObjectsKey)?.Children ?? [])
        {
            if (EntryId.TryParse(node.Name) is { } id && byId.TryAdd(id, new BootEntry(node, id))) list.Add(byId[id]);
        }

        return (list, byId);
    });
}
