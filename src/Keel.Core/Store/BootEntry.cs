using System.Buffers.Binary;
using Keel.Core.Hives;

namespace Keel.Core.Store;

/// <summary>One entry of a store, standing on its key; what keel does not know stays there as it is.</summary>
public sealed class BootEntry
{
    private const string ElementValue = "Element", ElementsKey = "Elements", DescriptionKey = "Description", TypeValue = "Type";
    private readonly HiveNode node;

    internal BootEntry(HiveNode node, EntryId id)
    {
        this.node = node;
        Id = id;
    }

    /// <summary>The name of the key that the entry is.</summary>
    public EntryId Id { get; }

    /// <summary>What kind of entry it says it is; 0 where it says nothing.</summary>
    public EntryType Type => new(node.Child(DescriptionKey)?.Value(TypeValue)?.AsNumber() ?? 0);

    /// <summary>What the menu calls it; null where it has no title.</summary>
    public string? Title => Text(Element.Title);

    /// <summary>
    /// Whether it starts a recovery or setup system, from an image that is unpacked into memory; such an entry has the type of a
    /// Windows, and is none to repair.
    /// </summary>
    public bool IsRecovery => Type == EntryType.Windows
        && (Device(Element.WindowsVolume)?.AsFile() is { IsRamdisk: true }
            || Device(Element.ProgramVolume)?.AsFile() is { IsRamdisk: true }
            || Number(Element.SetupSystem) is > 0);

    /// <summary>Whether it starts a Windows of NT 6 or later that is installed.</summary>
    internal bool StartsWindows => Type == EntryType.Windows && !IsRecovery;

    /// <summary>Whether it starts a system that is no Windows of NT 6 or later.</summary>
    internal bool StartsOther =>
        Type.IsApplication
            && Type != EntryType.Windows
            && Type != EntryType.Manager
            && Type != EntryType.FirmwareList
            && Type != EntryType.Resume
            && Type != EntryType.MemoryTest;

    /// <summary>What people know it by: its title, else its type and id.</summary>
    public string Name => Title ?? $"{Type.Name} {Id}";

    /// <summary>
    /// The numbers of the elements that the entry has; a key whose name is no number, or that holds no value, is none.
    /// </summary>
    public IEnumerable<uint> Elements => (node.Child(ElementsKey)?.Children ?? [])
        .Select(child =>
            uint.TryParse(child.Name, System.Globalization.NumberStyles.HexNumber, provider: null, out var element)
                ? element
                : (uint?)null)
        .OfType<uint>()
        .Where(element => Value(element) is not null);

    internal HiveNode Node => node;

    /// <summary>An element as text; null where it is missing or of another type.</summary>
    public string? Text(uint element) => Value(element)?.AsText();

    /// <summary>An element that names one other entry; null where it is missing or names none.</summary>
    public EntryId? Reference(uint element) => EntryId.TryParse(Text(element));

    /// <summary>A list of entries; what is not an identifier is left out.</summary>
    public IReadOnlyList<EntryId> References(uint element) =>
        [.. (Value(element)?.AsTextList() ?? []).Select(EntryId.TryParse).OfType<EntryId>()];

    /// <summary>An element that names a device; null where it is missing or of another type.</summary>
    public BootDevice? Device(uint element) =>
        Value(element) is { Type: HiveValueType.Binary } value ? BootDevice.Read(value.Data) : null;

    /// <summary>An element as a number; null where it is missing, of another type, or not of 1 to 8 bytes.</summary>
    public ulong? Number(uint element)
    {
        if (Value(element) is not { Type: HiveValueType.Binary } value || value.Data.Length == 0) return null;
        Span<byte> wide = stackalloc byte[sizeof(ulong)];
        value.Data.AsSpan(0, Math.Min(value.Data.Length, wide.Length)).CopyTo(wide);
        return BinaryPrimitives.ReadUInt64LittleEndian(wide);
    }

    internal void Set(uint element, string text) => Put(element, HiveValue.OfText(ElementValue, text));

    internal void Set(uint element, EntryId id) => Put(element, HiveValue.OfText(ElementValue, id.ToString()));

    internal void Set(uint element, IEnumerable<EntryId> ids) =>
        Put(element, HiveValue.OfTextList(ElementValue, ids.Select(id => id.ToString())));

    internal void Set(uint element, BootDevice device) => Put(element, HiveValue.OfBinary(ElementValue, device.Raw));

    internal BootEntry Set(uint element, ulong number)
    {
        var data = new byte[sizeof(ulong)];
        BinaryPrimitives.WriteUInt64LittleEndian(data, number);
        Put(element, HiveValue.OfBinary(ElementValue, data));
        return this;
    }

    internal void SetNumbers(uint element, IEnumerable<ulong> numbers) =>
        Put(element, HiveValue.OfBinary(ElementValue, [.. numbers.SelectMany(BitConverter.GetBytes)]));

    internal void Set(uint element, bool flag) => Put(element, HiveValue.OfBinary(ElementValue, [flag ? (byte)1 : (byte)0]));

    internal void SetType(EntryType type) => node.ChildOrNew(DescriptionKey).Set(HiveValue.OfNumber(TypeValue, type.Value));

    internal void Remove(uint element) =>
        node.Child(
            ElementsKey)?.Children.RemoveAll(child =>
                child.Name.Equals(Element.KeyName(element), StringComparison.OrdinalIgnoreCase));

    /// <summary>The value as it is stored; null where the entry has no such element.</summary>
    public HiveValue? Value(uint element) => node.Child(ElementsKey)?.Child(Element.KeyName(element))?.Value(ElementValue);

    /// <summary>Takes a value as another entry has it.</summary>
    internal void Take(uint element, HiveValue value) => Put(element, value);

    private void Put(uint element, HiveValue value) =>
        node.ChildOrNew(ElementsKey).ChildOrNew(Element.KeyName(element)).Set(value);
}
