using Keel.Core.Facts;

namespace Keel.Core.Layout;

/// <summary>One thing that is wrong with a partition table, and where it shows.</summary>
public sealed record LayoutProblem(LayoutProblemKind Kind, Remark Seen)
{
    internal static LayoutProblem Of(LayoutProblemKind kind, string id, params IEnumerable<KnownFact> facts) =>
        new(kind, Remark.Of($"table.{id}", facts));
}
