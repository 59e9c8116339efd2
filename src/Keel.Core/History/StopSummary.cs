namespace Keel.Core.History;

/// <summary>A stop code that a machine noted, and how often.</summary>
/// <param name="Code">The stop code.</param>
/// <param name="Times">How often it was noted; each stop counts once, however many records it left.</param>
/// <param name="First">When it was noted first; null where that is not known.</param>
/// <param name="Last">When it was noted last; null where that is not known.</param>
public sealed record StopSummary(uint Code, int Times, DateTimeOffset? First, DateTimeOffset? Last);
