namespace Keel.Core.Chain;

/// <summary>What a check saw at its link.</summary>
/// <param name="Detail">One line on what stands there. May hold text from the disk.</param>
/// <param name="Judged">False where a link before made this one impossible to judge.</param>
public sealed record LinkReport(string Detail, IReadOnlyList<Finding> Findings, bool Judged = true)
{
    public static LinkReport Sound(string detail) => new(detail, []);

    public static LinkReport Unreached(string why) => new(why, [], Judged: false);

    public static LinkReport Of(string detail, params IEnumerable<Finding> findings) => new(detail, [.. findings]);

    /// <summary>A link with one thing wrong, which is also its detail.</summary>
    public static LinkReport Wrong(FindingKind kind, string evidence) => new(evidence, [kind.At(evidence)]);
}
