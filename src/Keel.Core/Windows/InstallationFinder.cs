using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Hives;
using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>Finds the Windows installations of a volume.</summary>
public static class InstallationFinder
{
    private const int FoldersLooked = 300;
    private const int FirstBuildOf11 = 22000;

    private static readonly string[] Signs = [
        @"System32\config\SYSTEM",
        @"System32\config\SOFTWARE",
        @"System32\ntoskrnl.exe",
        @"System32\winload.exe",
        @"System32\winload.efi"
    ];

    /// <summary>The installations, the one in the usual folder first.</summary>
    public static IReadOnlyList<WindowsInstallation> Find(DiskVolume volume)
    {
        if (volume.Files is not { } files) return [];
        var folders = files.List("").Where(file => file.IsFolder).Select(file => file.Name)
            .OrderBy(name => !name.Equals("Windows", StringComparison.OrdinalIgnoreCase))
            .Take(FoldersLooked);
        return [.. folders.Where(name => IsInstallation(files, name)).Select(name => Describe(volume, files, $@"\{name}"))];
    }

    /// <summary>Two of its signs are enough: an installation that lost a file is still one, and needs it back.</summary>
    private static bool IsInstallation(IVolume files, string name) =>
        files.FolderExists($@"\{name}\System32\config") && Signs.Count(sign => files.FileExists($@"\{name}\{sign}")) >= 2;

    private static WindowsInstallation Describe(DiskVolume volume, IVolume files, string folder)
    {
        var version = TryKey(files, $@"{folder}\System32\config\SOFTWARE", @"Microsoft\Windows NT\CurrentVersion");
        var root = version?.Value("SystemRoot")?.AsText();
        var product = version?.Value("ProductName")?.AsText() ?? "Windows";
        _ = int.TryParse(
            version?.Value("CurrentBuildNumber")?.AsText() ?? version?.Value("CurrentBuild")?.AsText(),
            out var build);
        if (build >= FirstBuildOf11) product = product.Replace("Windows 10", "Windows 11", StringComparison.Ordinal);
        var hasLoader =
            files.FileExists($@"{folder}\System32\winload.exe") || files.FileExists($@"{folder}\System32\winload.efi");
        return new WindowsInstallation(volume, folder, product, build)
        {
            HasLoader = hasLoader,
            Revision = version?.Value("UBR")?.AsNumber() is { } revision and <= ushort.MaxValue ? (int)revision : null,
            SystemLetter = root is [var letter and (>= 'A' and <= 'Z' or >= 'a' and <= 'z'), ':', ..]
                ? char.ToUpperInvariant(letter)
                : null,
            RememberedFolder = root is [_, ':', '\\', ..] ? root[2..].TrimEnd('\\') : null
        };
    }

    /// <summary>A key of a hive on the volume; null where anything on the way is missing or damaged.</summary>
    internal static HiveKey? TryKey(IVolume files, string hivePath, string key)
    {
        try
        {
            return files.FileExists(hivePath) ? Hive.Open(new CachedBlocks(files.OpenFile(hivePath))).Root.Find(key) : null;
        }
        catch (KeelException)
        {
            return null;
        }
    }
}
