using Keel.Core.Facts;
using Keel.Core.Machines;

namespace Keel.Core.Chain;

/// <summary>A kind of thing that can be wrong at a link.</summary>
/// <param name="Id">Stable, as in "store-missing".</param>
/// <param name="Link">The link that it is found at.</param>
/// <param name="Severity">Whether a start fails by it.</param>
/// <param name="What">One sentence on what is wrong.</param>
/// <param name="Shows">What a machine with it shows, most likely first: ids of startup errors.</param>
public sealed record FindingKind(string Id, Link Link, Severity Severity, string What, params string[] Shows)
{
    /// <summary>What to do about it, where no repair of keel's can; null where the general advice fits.</summary>
    public string? Beyond { get; init; }

    /// <summary>Whether every link can have it; <see cref="Link"/> is then the one that has it.</summary>
    public bool IsOfAnyLink { get; init; }

    /// <summary>The first link that can't be judged before it is mended; null where it keeps nothing from being judged.</summary>
    public Link? HidesFrom { get; init; }

    /// <summary>A finding of this kind, with what was seen, and where.</summary>
    public Finding At(params IEnumerable<KnownFact> facts) => new(this, Remark.Of(Id, facts));

    /// <summary>A finding of this kind about a file.</summary>
    public Finding At(FilePlace file, params IEnumerable<KnownFact> facts) => new(this, Remark.Of(Id, facts), file);

    /// <summary>A finding of this kind, told by a remark that others make too.</summary>
    /// <param name="seen">What was seen, and where.</param>
    /// <param name="file">The file that it is about, where it is about one.</param>
    public Finding At(Remark seen, FilePlace? file = null) => new(this, seen, file);
}
