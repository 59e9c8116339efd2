using Keel.Core.Chain;

namespace Keel.Core.Mending;

/// <summary>A finding that is left as it is, why, and what the technician can do.</summary>
public sealed record Refusal(Link Link, string FindingId, string Why, string Todo);
