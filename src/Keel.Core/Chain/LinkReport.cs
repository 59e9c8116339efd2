using Keel.Core.Facts;

namespace Keel.Core.Chain;

/// <summary>What a check saw at its link.</summary>
/// <param name="Detail">What stands there.</param>
/// <param name="Findings">What was found.</param>
/// <param name="Judged">False where a link before made this one impossible to judge.</param>
public sealed record LinkReport(Remark Detail, IReadOnlyList<Finding> Findings, bool Judged = true)
{
    /// <summary>A link with nothing wrong.</summary>
    public static LinkReport Sound(Remark detail) => new(detail, []);

    /// <summary>A link with nothing wrong.</summary>
    public static LinkReport Sound(string id, params IEnumerable<KnownFact> facts) => new(Remark.Of(id, facts), []);

    /// <summary>A link that can't be judged, and why.</summary>
    public static LinkReport Unreached(Remark why) => new(why, [], Judged: false);

    /// <summary>A link that can't be judged, and why.</summary>
    public static LinkReport Unreached(string id, params IEnumerable<KnownFact> facts) => Unreached(Remark.Of(id, facts));

    /// <summary>A link with what is wrong there; the first of it is its detail.</summary>
    /// <param name="findings">What was found.</param>
    /// <param name="sound">The detail where nothing is wrong.</param>
    public static LinkReport Of(IReadOnlyList<Finding> findings, Remark sound) =>
        new(findings.Count > 0 ? findings[0].Seen : sound, findings);

    /// <summary>A link with one thing wrong.</summary>
    public static LinkReport Wrong(FindingKind kind, params IEnumerable<KnownFact> facts) => Wrong(kind.At(facts));

    /// <summary>A link with one thing wrong, told by a remark that others make too.</summary>
    public static LinkReport Wrong(FindingKind kind, Remark seen) => Wrong(kind.At(seen));

    private static LinkReport Wrong(Finding finding) => new(finding.Seen, [finding]);
}
