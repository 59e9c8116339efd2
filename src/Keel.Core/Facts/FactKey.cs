namespace Keel.Core.Facts;

/// <summary>What a fact is about, and of which type its value is.</summary>
/// <param name="Name">As it stands in documents and in the sentences' gaps, such as "sizeBytes".</param>
public sealed record FactKey<T>(string Name)
    where T : notnull
{
    /// <summary>The fact with its value.</summary>
    public KnownFact Is(T value) => new(Name, value);
}
