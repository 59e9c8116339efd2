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

    private BootStore(HiveNode root, uint minor, uint sequence, IReadOnlyList<string> damage)
    {
        this.root = root;
        this.minor = minor;
        this.sequence = sequence;
        Damage = damage;
    }

    /// <summary>What of the hive could not be read, in words; empty for a sound one.</summary>
    public IReadOnlyList<string> Damage { get; }

    /// <summary>The entries, in the order of the hive.</summary>
    public IReadOnlyList<BootEntry> Entries => [.. (root.Child(ObjectsKey)?.Children ?? [])
        .Select(node => EntryId.TryParse(node.Name) is { } id ? new BootEntry(node, id) : null)
        .OfType<BootEntry>()];

    internal HiveNode Root => root;

    /// <summary>The minor version of the hive.</summary>
    internal uint Minor => minor;

    public BootEntry? Manager => Entry(EntryId.Manager);

    /// <summary>The entries that start Windows, those in the menu first and in its order.</summary>
    public IReadOnlyList<BootEntry> WindowsEntries
    {
        get
        {
            var order = Manager?.References(Element.MenuOrder) ?? [];
            return [.. Entries.Where(entry => entry.Type == EntryType.Windows).OrderBy(entry => order.Contains(entry.Id) ? order.ToList().IndexOf(entry.Id) : int.MaxValue)];
        }
    }

    /// <summary>Reads a store.</summary>
    /// <exception cref="HiveDamagedException">The hive has no readable root.</exception>
    public static BootStore Read(byte[] file)
    {
        var hive = Hive.Open(file);
        var root = hive.ReadTree();
        return new BootStore(root, hive.Header.Minor, hive.Header.PrimarySequence, hive.Damage);
    }

    /// <summary>What can still be found of a store whose hive is broken: every entry whose keys survive, with an account of what was lost.</summary>
    public static BootStore Salvage(byte[] file)
    {
        var losses = new List<string>();
        var store = Empty(DateTimeOffset.FromFileTime(HiveHeader.TryRead(file)?.LastWritten is { } written and > 0 ? written : 0));
        foreach (var node in HiveSalvage.Find(file, name => EntryId.TryParse(name) is not null, losses).Where(node => node.Child("Description") is not null || node.Child("Elements") is not null))
        {
            if (store.Entry(EntryId.TryParse(node.Name)!.Value) is null) store.root.ChildOrNew(ObjectsKey).Children.Add(node);
        }

        return new BootStore(store.root, UsualMinorVersion, 0, losses.Count > 0 ? losses : ["the hive could only be read in parts"]);
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

    public BootEntry? Entry(EntryId id) => Entries.FirstOrDefault(entry => entry.Id == id);

    /// <summary>The entry that starts when nobody chooses: the preferred one, or else the first of the menu.</summary>
    public EntryId? Preferred => Manager?.Reference(Element.Preferred) ?? Manager?.References(Element.MenuOrder).Cast<EntryId?>().FirstOrDefault();

    /// <summary>The bytes of the store's file.</summary>
    public byte[] ToBytes() => HiveWriter.Write(root, Math.Clamp(minor, UsualMinorVersion, 6), sequence + 1);

    /// <summary>Takes an entry out, and every reference to it.</summary>
    internal void Drop(EntryId id)
    {
        root.Child(ObjectsKey)?.Children.RemoveAll(node => EntryId.TryParse(node.Name) == id);
        foreach (var entry in Entries) DropReferences(entry, id);
    }

    /// <summary>A copy of an entry under a new identifier.</summary>
    internal BootEntry Copy(BootEntry entry, EntryId id)
    {
        root.ChildOrNew(ObjectsKey).Children.Add(entry.Node.Clone(id.ToString()));
        return Entry(id)!;
    }

    /// <summary>Takes an entry of another store over as it is; one of the same identifier stays.</summary>
    internal void Adopt(BootEntry entry)
    {
        if (Entry(entry.Id) is null) root.ChildOrNew(ObjectsKey).Children.Add(entry.Node.Clone(entry.Node.Name));
    }

    private static void DropReferences(BootEntry entry, EntryId id)
    {
        foreach (var element in entry.Elements.ToList())
        {
            if (Setting.FormatOf(element) == SettingFormat.Entry && entry.Reference(element) == id) entry.Remove(element);
            if (Setting.FormatOf(element) == SettingFormat.EntryList && entry.References(element).Contains(id)) entry.Set(element, entry.References(element).Where(other => other != id));
        }
    }

    internal BootEntry Add(EntryId id, EntryType type)
    {
        var entry = new BootEntry(root.ChildOrNew(ObjectsKey).ChildOrNew(id.ToString()), id);
        entry.SetType(type);
        entry.Node.ChildOrNew("Elements");
        return entry;
    }
}
