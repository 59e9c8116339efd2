namespace Keel.Core.Chain;

/// <summary>Every kind of finding, in the order of the chain.</summary>
public static class AllFindings
{
    /// <summary>All of them: what each check says that it finds, and what any link can have.</summary>
    public static IReadOnlyList<FindingKind> Kinds { get; } =
    [
        .. Walk.AllChecks.SelectMany(check => check.Kinds).Distinct().OrderBy(kind => kind.Link),
        ReadErrorFindings.Kind,
        .. Judgement.Kinds
    ];

    /// <summary>The kind with that id; null where there is none.</summary>
    public static FindingKind? Named(string id) =>
        Kinds.FirstOrDefault(kind => kind.Id.Equals(id.Trim(), StringComparison.OrdinalIgnoreCase));

    /// <summary>The kinds that lead to a startup error.</summary>
    public static IReadOnlyList<FindingKind> LeadingTo(string errorId) =>
        [.. Kinds.Where(kind => kind.Shows.Contains(errorId))];
}
