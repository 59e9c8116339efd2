namespace Keel.Core.Windows;

/// <summary>Which builds have the same files.</summary>
/// <remarks>
/// Some yearly versions only switch on what the one before has already (an enablement package): Windows then says the later
/// build, and its files and media the earlier one. A Windows 10 of build 19045 runs a kernel that says 10.0.19041.
/// </remarks>
internal static class WindowsBuilds
{
    /// <summary>The build that the files say, and the last that is made of them.</summary>
    private static readonly (int Files, int Last)[] Enabled =
        [(18362, 18363), (19041, 19045), (22621, 22631), (26100, 26200)];

    /// <summary>Whether two builds, of files or of a Windows, are of the same files.</summary>
    public static bool AreOfSameFiles(int one, int other) => OfFiles(one) == OfFiles(other);

    private static int OfFiles(int build)
    {
        foreach (var (files, last) in Enabled)
        {
            if (build >= files && build <= last) return files;
        }

        return build;
    }
}
