using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>A Windows on a volume.</summary>
/// <param name="Folder">Such as <c>\Windows</c>.</param>
/// <param name="Product">Such as "Windows 10 Pro"; "Windows" where its SOFTWARE hive can't be read.</param>
/// <param name="Build">Such as 19045; 0 where unknown.</param>
public sealed record WindowsInstallation(DiskVolume Volume, string Folder, string Product, int Build)
{
    public string SystemHivePath => $@"{Folder}\System32\config\SYSTEM";

    public override string ToString() => $"{Product} in {Folder} on {Volume}";
}
