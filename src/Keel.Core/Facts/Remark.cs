namespace Keel.Core.Facts;

/// <summary>Something to be told: which sentence, and the facts that go into it. The interface has the words.</summary>
/// <param name="Id">Which sentence; for a finding, usually its kind's id.</param>
/// <param name="Facts">The facts that fill the sentence's gaps.</param>
public sealed record Remark(string Id, FactSet Facts)
{
    /// <summary>A remark with its facts.</summary>
    public static Remark Of(string id, params IEnumerable<KnownFact> facts) => new(id, new FactSet(facts));

    /// <summary>What somebody else has put into words already.</summary>
    public static Remark Said(string text) => Of("said", Fact.Said.Is(text));

    /// <summary>The same remark with more facts.</summary>
    public Remark With(params IEnumerable<KnownFact> more) => this with { Facts = Facts.With(more) };

    /// <summary>Id and facts, plain, for logs and comparisons; people get the sentence.</summary>
    public override string ToString() => Facts.Count == 0 ? Id : $"{Id}: {Facts}";
}
