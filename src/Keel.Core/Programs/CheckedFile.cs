using Keel.Core.Facts;

namespace Keel.Core.Programs;

/// <summary>A file that was held against its signature and the catalogs.</summary>
/// <param name="Path">From the top of its volume.</param>
/// <param name="Verdict">What came of it.</param>
/// <param name="SizeBytes">Its size, in bytes.</param>
/// <param name="Version">The version that it says; null where it says none.</param>
/// <param name="Written">When it was written last; null where that is not known.</param>
public sealed record CheckedFile(
    string Path,
    FileVerdict Verdict,
    long SizeBytes,
    Version? Version,
    DateTimeOffset? Written)
{
    /// <summary>Whose certificate says that it is as signed; null where none does.</summary>
    public FileSigner? Signer { get; init; }

    /// <summary>The catalog that lists it; null where it carries its own signature, or none does.</summary>
    public string? Catalog { get; init; }

    /// <summary>What is wrong with it, where more is known than that it is another.</summary>
    public Remark? Why { get; init; }

    /// <summary>A copy that is as signed; null where none was found, or none looked for.</summary>
    public SignedCopy? Copy { get; init; }
}
