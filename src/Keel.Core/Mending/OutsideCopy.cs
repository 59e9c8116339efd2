using Keel.Core.Programs;
using Keel.Core.Windows;

namespace Keel.Core.Mending;

/// <summary>A copy of a file that is not of the installation itself.</summary>
/// <param name="Source">Where it comes from, as it is told to people.</param>
/// <param name="Bytes">Its contents.</param>
/// <param name="Version">The version that it says; null where it says none.</param>
internal sealed record OutsideCopy(string Source, byte[] Bytes, Version? Version)
{
    /// <summary>Whose signature proves it, its own or that of one of the machine's catalogs; null where nothing does.</summary>
    public string? Signer { get; init; }

    /// <summary>Whether it is what this Windows would have there: the version that stood there, or else that in force.</summary>
    public bool IsOfSameRevision(Version? standing, WindowsInstallation installation) =>
        Version is { } version && (standing is not null ? version == standing : version.Revision == installation.Revision);

    /// <summary>Whether it is of the same build: nothing else works together.</summary>
    public bool IsOfBuild(WindowsInstallation installation) =>
        Version is { } version && WindowsBuilds.AreOfSameFiles(version.Build, installation.Build);
}
