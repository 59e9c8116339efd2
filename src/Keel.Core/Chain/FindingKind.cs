namespace Keel.Core.Chain;

/// <summary>A kind of thing that can be wrong at a link.</summary>
/// <param name="Id">Stable, as in "store-missing".</param>
/// <param name="What">One sentence on what is wrong.</param>
/// <param name="Shows">What a machine with it shows, most likely first: ids of startup errors.</param>
public sealed record FindingKind(string Id, Link Link, Severity Severity, string What, params string[] Shows)
{
    /// <summary>What to do about it, where no repair of keel's can; null where the general advice fits.</summary>
    public string? Beyond { get; init; }

    /// <summary>A finding of this kind.</summary>
    /// <param name="evidence">What was seen, and where.</param>
    /// <param name="file">The file that it is about, where it is about one.</param>
    public Finding At(string evidence, FilePlace? file = null) => new(this, evidence, file);
}
