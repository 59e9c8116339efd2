using Keel.Core.Chain;
using Keel.Core.Facts;

namespace Keel.Core.Mending;

/// <summary>A finding that is left as it is, why, and what the technician can do.</summary>
/// <param name="Link">The link that is left.</param>
/// <param name="FindingId">The finding that is left.</param>
/// <param name="Why">The reason; what to do about it is told by the same id.</param>
public sealed record Refusal(Link Link, string FindingId, Remark Why)
{
    /// <summary>What is in the way, where something can be done about it.</summary>
    public Obstacle Obstacle { get; init; }
}
