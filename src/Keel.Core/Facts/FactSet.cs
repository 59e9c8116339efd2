using System.Collections;

namespace Keel.Core.Facts;

/// <summary>What is known about one thing, in the order in which it was told; it never changes.</summary>
public sealed class FactSet(IEnumerable<KnownFact> facts) : IReadOnlyList<KnownFact>
{
    private readonly KnownFact[] facts = [.. facts];

    /// <summary>Nothing is known.</summary>
    public static FactSet Empty { get; } = new([]);

    /// <inheritdoc/>
    public int Count => facts.Length;

    /// <inheritdoc/>
    public KnownFact this[int index] => facts[index];

    /// <summary>The value of a fact; the type's default where it is not known.</summary>
    public T? Get<T>(FactKey<T> key)
        where T : notnull => Find(key.Name) is T value ? value : default;

    /// <summary>The value of a fact by its name; null where it is not known.</summary>
    public object? Find(string name) => Array.Find(facts, fact => fact.Name == name)?.Value;

    /// <summary>These facts and more.</summary>
    public FactSet With(params IEnumerable<KnownFact> more) => new([.. facts, .. more]);

    /// <inheritdoc/>
    public IEnumerator<KnownFact> GetEnumerator() => ((IEnumerable<KnownFact>)facts).GetEnumerator();

    /// <summary>The facts, plain: what tells one set from another.</summary>
    public override string ToString() => string.Join(", ", facts.Select(fact => $"{fact.Name} {Plain(fact.Value)}"));

    IEnumerator IEnumerable.GetEnumerator() => GetEnumerator();

    private static string Plain(object value) =>
        value is IEnumerable many and not string ? string.Join("; ", many.Cast<object>().Select(Plain)) : $"{value}";
}
