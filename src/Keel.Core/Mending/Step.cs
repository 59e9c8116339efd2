using Keel.Core.Chain;
using Keel.Core.Facts;

namespace Keel.Core.Mending;

/// <summary>One thing that a repair does.</summary>
/// <param name="Link">The link that it mends.</param>
/// <param name="FindingId">The finding that it mends.</param>
/// <param name="Summary">What it does.</param>
/// <param name="Details">What it decided, and which files it touches.</param>
public sealed record Step(Link Link, string FindingId, Remark Summary, IReadOnlyList<StepDetail> Details)
{
    /// <summary>A step whose lines all say what changes.</summary>
    public Step(Link link, string findingId, Remark summary, params IEnumerable<Remark> lines)
        : this(link, findingId, summary, [.. lines.Select(line => new StepDetail(line))])
    {
    }

    /// <summary>By what it is agreed to.</summary>
    public StepConsent Consent { get; init; }

    /// <summary>What it loses.</summary>
    public Loss Loss => Details.Aggregate(Loss.None, (loss, detail) => loss | detail.Loss);

    /// <summary>Whether it guesses, or rests on something that only people can know: such a step is read first.</summary>
    public bool IsGuess { get; init; }

    /// <summary>Whether only the next start of Windows shows that it does what it is for, whatever the walk says.</summary>
    public bool IsUnproven { get; init; }

    /// <summary>Whether it may be taken without anybody reading it: only where its remedy says so, and nothing is lost.</summary>
    public bool MayBeUnread { get; init; }

    /// <summary>Whether it makes a new file system.</summary>
    public bool MakesFileSystem => Consent == StepConsent.NewFileSystem;

    /// <summary>What tells it from the other steps of its plan.</summary>
    public StepId Id { get; init; }
}
