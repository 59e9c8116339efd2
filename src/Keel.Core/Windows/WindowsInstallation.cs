using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>A Windows on a volume.</summary>
/// <param name="Volume">The volume that it is on.</param>
/// <param name="Folder">Such as <c>\Windows</c>.</param>
/// <param name="Product">Such as "Windows 10 Pro"; "Windows" where its SOFTWARE hive can't be read.</param>
/// <param name="Build">Such as 19045; 0 where unknown.</param>
public sealed record WindowsInstallation(DiskVolume Volume, string Folder, string Product, int Build)
{
    private const int FirstBuildOfNt6 = 6000;

    /// <summary>Whether a loader of NT 6 or later is in its folder.</summary>
    public bool HasLoader { get; init; }

    /// <summary>The revision of the build in force (UBR); null where it does not say, as before build 10240.</summary>
    public int? Revision { get; init; }

    /// <summary>The letter that it calls its own volume by, as its SOFTWARE hive says; null where that can't be read.</summary>
    public char? SystemLetter { get; init; }

    /// <summary>The folder that it was installed in, as its SOFTWARE hive says; null where that can't be read.</summary>
    public string? RememberedFolder { get; init; }

    /// <summary>Whether it is an NT 5 Windows, which no store lists.</summary>
    public bool IsNt5 => Build > 0 ? Build < FirstBuildOfNt6 : !HasLoader;

    public string SystemHivePath => $@"{Folder}\System32\config\SYSTEM";

    /// <summary>As it is told to people.</summary>
    public override string ToString() => $"{Product} in {Folder} on {Volume}";
}
