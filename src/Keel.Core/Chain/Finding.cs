namespace Keel.Core.Chain;

/// <summary>One thing that is wrong with a machine's chain.</summary>
/// <param name="Evidence">What was seen, and where. May hold text from the disk: escape it before printing.</param>
/// <param name="File">The file that it is about, where it is about one.</param>
public sealed record Finding(FindingKind Kind, string Evidence, FilePlace? File = null)
{
    public string Id => Kind.Id;

    public Link Link => Kind.Link;
}
