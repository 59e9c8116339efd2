using Keel.Core.Chain;

namespace Keel.Core.Mending;

/// <summary>One thing that a repair does.</summary>
/// <param name="FindingId">The finding that it mends.</param>
/// <param name="Summary">One sentence. May hold text from the disk.</param>
/// <param name="Details">What it decided and which files it touches. May hold text from the disk.</param>
public sealed record Step(Link Link, string FindingId, string Summary, IReadOnlyList<StepDetail> Details)
{
    /// <summary>A step whose lines all say what changes.</summary>
    public Step(Link link, string findingId, string summary, IEnumerable<string> lines)
        : this(link, findingId, summary, [.. lines.Select(line => new StepDetail(line))])
    {
    }

    /// <summary>What tells it from the other steps of its plan.</summary>
    public StepId Id { get; init; }
}
