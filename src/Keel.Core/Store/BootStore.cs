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

    internal BootEntry Add(EntryId id, EntryType type)
    {
        var entry = new BootEntry(root.ChildOrNew(ObjectsKey).ChildOrNew(id.ToString()), id);
        entry.SetType(type);
        entry.Node.ChildOrNew("Elements");
        return entry;
    }
}
