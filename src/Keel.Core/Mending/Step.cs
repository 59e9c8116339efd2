using Keel.Core.Chain;

namespace Keel.Core.Mending;

/// <summary>One thing that a repair does.</summary>
/// <param name="FindingId">The finding that it mends.</param>
/// <param name="Summary">One sentence. May hold text from the disk.</param>
/// <param name="Details">What it decided and which files it touches, a line each. May hold text from the disk.</param>
public sealed record Step(Link Link, string FindingId, string Summary, IReadOnlyList<string> Details);
