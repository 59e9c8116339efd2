using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Hives;
using Keel.Core.Volumes;

namespace Keel.Core.Windows.Drivers;

/// <summary>
/// The database by which Windows 8 and later match devices with drivers: the DRIVERS hive. What it says of a device is in a
/// binary form of its own; which packages it has is readable, and is all that is asked here.
/// </summary>
internal static class DeviceDatabase
{
    private const string Hive = @"System32\config\DRIVERS", Packages = @"DriverDatabase\DriverPackages";
    private const string Store = @"System32\DriverStore\FileRepository";
    private const int PackagesLimit = 60_000, LastBuildWithList = 7601;

    /// <summary>Whether a build has it; older ones have a list in the SYSTEM hive (CriticalDeviceDatabase).</summary>
    public static bool IsOf(int? build) => build is > LastBuildWithList;

    /// <summary>Whether an installation has one.</summary>
    public static bool IsThere(IVolume files, string windows) =>
        files.Find($@"{windows}\{Hive}") is { IsFolder: false, SizeBytes: > HiveHeader.Size };

    /// <summary>Whether a package that it has brings a file of that name; null where it can't be read.</summary>
    /// <param name="files">The volume of the installation.</param>
    /// <param name="windows">Its folder.</param>
    /// <param name="fileName">The driver's file, without a folder.</param>
    public static bool? Has(IVolume files, string windows, string fileName)
    {
        try
        {
            var path = $@"{windows}\{Hive}";
            if (!IsThere(files, windows)) return false;
            var ownName = Path.GetFileNameWithoutExtension(fileName);   // most packages are called like their driver
            var root = Hives.Hive.Open(new CachedBlocks(files.OpenFile(path))).Root;
            return root.Find(Packages) is { } packages
                && packages.Subkeys()
                    .Take(PackagesLimit)
                    .Select(package => package.Name)
                    .OrderByDescending(name => name.StartsWith(ownName, StringComparison.OrdinalIgnoreCase))
                    .Any(name => files.FileExists($@"{windows}\{Store}\{name}\{fileName}"));
        }
        catch (KeelException)
        {
            return null;
        }
    }
}
