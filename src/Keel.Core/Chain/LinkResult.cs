using Keel.Core.Facts;

namespace Keel.Core.Chain;

/// <summary>A link as the walk left it.</summary>
public sealed record LinkResult(Link Link, LinkStatus Status, Remark Detail);
