namespace Keel.Core.Hives;

/// <summary>A key in memory, to be changed and written: what a hive gives and <see cref="HiveWriter"/> takes.</summary>
public sealed class HiveNode(string name)
{
    /// <summary>Its name, without its path.</summary>
    public string Name { get; set; } = name;

    /// <summary>The class name's bytes, as stored; rarely used.</summary>
    public byte[] ClassName { get; set; } = [];

    /// <summary>When the key was last written, as 100 ns since 1601.</summary>
    public long LastWritten { get; set; }

    /// <summary>The flags that are not about the form of storage (bits 08 no delete, 10 link, 40 and above).</summary>
    public ushort Flags { get; set; }

    /// <summary>The security descriptor, self-relative; null for the writer's usual one.</summary>
    public byte[]? Security { get; set; }

    /// <summary>Its values, in any order.</summary>
    public List<HiveValue> Values { get; } = [];

    /// <summary>Its keys, in any order; they are sorted when the hive is written.</summary>
    public List<HiveNode> Children { get; } = [];

    /// <summary>The child of that name, without case.</summary>
    public HiveNode? Child(string name) => Children.Find(child => child.Name.Equals(name, StringComparison.OrdinalIgnoreCase));

    /// <summary>The child of that name, made where it is missing.</summary>
    public HiveNode ChildOrNew(string name)
    {
        if (Child(name) is { } found) return found;
        var made = new HiveNode(name) { LastWritten = LastWritten, Security = Security };
        Children.Add(made);
        return made;
    }

    /// <summary>A copy with everything below, under another name.</summary>
    public HiveNode Clone(string name)
    {
        var copy = new HiveNode(name) { ClassName = ClassName, LastWritten = LastWritten, Flags = Flags, Security = Security };
        copy.Values.AddRange(Values);
        copy.Children.AddRange(Children.Select(child => child.Clone(child.Name)));
        return copy;
    }

    /// <summary>A value by its name, in any case; null where there is none.</summary>
    public HiveValue? Value(string name) => Values.Find(value => value.Name.Equals(name, StringComparison.OrdinalIgnoreCase));

    /// <summary>Adds a value, or replaces the one of the same name.</summary>
    public HiveNode Set(HiveValue value)
    {
        var index = Values.FindIndex(other => other.Name.Equals(value.Name, StringComparison.OrdinalIgnoreCase));
        if (index < 0)
            Values.Add(value);
        else
            Values[index] = value;
        return this;
    }
}
