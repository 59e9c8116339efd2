using Keel.Core.Machines;
using Keel.Core.Volumes;

namespace Keel.Core.Drills;

/// <summary>The installation medium that lies beside a practice disk, as a folder where it would be mounted.</summary>
internal static class PracticeMedium
{
    private const string System32 = @"\Windows\System32";

    /// <summary>Where it is put.</summary>
    public static string FolderFor(string imagePath) => imagePath + ".medium";

    /// <summary>Makes one of the very Windows that is on the machine.</summary>
    public static void Write(string folder, Machine machine, PracticeSpec spec)
    {
        var sources = Path.Combine(folder, "sources");
        Directory.CreateDirectory(sources);
        PracticeWim.Make(
            Path.Combine(sources, "install.wim"),
            spec.Product,
            spec,
            FilesOf(machine.Installations[0].Volume.Files!, System32, $@"{System32}\drivers", $@"{System32}\Boot"));
    }

    /// <summary>The recovery image of a machine, with its loaders and its kernel.</summary>
    public static byte[] RecoveryImage(IVolume files, PracticeSpec spec)
    {
        var path = Path.Combine(Path.GetTempPath(), $"keel-{Guid.NewGuid():N}.wim");
        try
        {
            PracticeWim.Make(path, "Brackwater recovery", spec, FilesOf(files, System32, $@"{System32}\Boot"));
            return File.ReadAllBytes(path);
        }
        finally
        {
            File.Delete(path);
        }
    }

    private static IEnumerable<(string Path, byte[] Bytes)> FilesOf(IVolume files, params string[] folders) =>
        from folder in folders
        from file in files.List(folder)
        where !file.IsFolder && Path.GetExtension(file.Name) is ".exe" or ".dll" or ".sys" or ".efi"
        select ($@"{folder}\{file.Name}", files.ReadFile($@"{folder}\{file.Name}"));
}
