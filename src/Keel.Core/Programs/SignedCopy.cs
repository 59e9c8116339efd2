namespace Keel.Core.Programs;

/// <summary>A copy of a file that is as its maker signed it.</summary>
/// <param name="Source">Where it is, as it is told to people.</param>
/// <param name="Version">The version that it says; null where it says none.</param>
/// <param name="Signer">Whose certificate says so.</param>
/// <param name="DifferingBytes">How many bytes of the file differ from it.</param>
/// <param name="IsSameVersion">Whether it is of the very version of the file, as far as both say one.</param>
public sealed record SignedCopy(
    string Source,
    Version? Version,
    FileSigner Signer,
    long DifferingBytes,
    bool IsSameVersion)
{
    /// <summary>Reads it once more, to be written.</summary>
    internal Func<byte[]> Read { get; init; } = () => [];
}
