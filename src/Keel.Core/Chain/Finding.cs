using Keel.Core.Facts;
using Keel.Core.Machines;

namespace Keel.Core.Chain;

/// <summary>One thing that is wrong with a machine's chain.</summary>
/// <param name="Kind">What is wrong.</param>
/// <param name="Seen">What was seen, and where.</param>
/// <param name="File">The file that it is about, where it is about one.</param>
public sealed record Finding(FindingKind Kind, Remark Seen, FilePlace? File = null)
{
    /// <summary>The id of its kind.</summary>
    public string Id => Kind.Id;

    /// <summary>The link that it was found at.</summary>
    public Link Link => Kind.Link;

    /// <summary>The same finding with more facts.</summary>
    public Finding With(params IEnumerable<KnownFact> more) => this with { Seen = Seen.With(more) };
}
