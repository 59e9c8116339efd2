namespace Keel.Core.Layout;

/// <summary>One thing that is wrong with a partition table, and where it shows.</summary>
public sealed record LayoutProblem(LayoutProblemKind Kind, string Evidence);
