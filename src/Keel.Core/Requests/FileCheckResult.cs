using Keel.Core.Programs;
using Keel.Core.Windows;

namespace Keel.Core.Requests;

/// <summary>What a check of files found.</summary>
/// <param name="Installation">The installation.</param>
/// <param name="Scope">Which of its files were checked.</param>
/// <param name="Files">The files, those that something is wrong with first.</param>
/// <param name="Catalogs">How many catalogs were read for it.</param>
public sealed record FileCheckResult(
    WindowsInstallation Installation,
    FileScope Scope,
    IReadOnlyList<CheckedFile> Files,
    int Catalogs)
{
    /// <summary>How many files of the component store are no files by themselves, but differences to others.</summary>
    public int Differences { get; init; }

    /// <summary>Those that are not as they were signed, or can't be read.</summary>
    public IReadOnlyList<CheckedFile> Wrong =>
        [.. Files.Where(file => file.Verdict is FileVerdict.Altered or FileVerdict.Unreadable)];

    /// <summary>How many have a verdict.</summary>
    public int Count(FileVerdict verdict) => Files.Count(file => file.Verdict == verdict);
}
