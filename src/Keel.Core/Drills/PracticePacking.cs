using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Ntfs;
using Keel.Core.Windows;

namespace Keel.Core.Drills;

/// <summary>Packs the system files of a practice Windows, as setup does on small disks.</summary>
internal static class PracticePacking
{
    private static readonly string[] Folders = ["System32", @"System32\drivers", ""];
    private static readonly string[] Kinds = [".exe", ".dll", ".sys"];

    /// <summary>What the boot manager reads, which knows no packing, stays as it is.</summary>
    private static readonly string[] Plain = ["winload.exe", "winresume.exe"];

    /// <param name="machine">The machine, in the overlay.</param>
    /// <param name="method">The method's number.</param>
    public static void Pack(Machine machine, uint method)
    {
        foreach (var windows in machine.Installations)
        {
            windows.Volume.Edit(files =>
            {
                if (files is not NtfsVolume ntfs) return;
                foreach (var path in PathsIn(ntfs, windows)) ntfs.Pack(path, method);
            });
        }
    }

    private static List<string> PathsIn(NtfsVolume files, WindowsInstallation windows) =>
    [
        .. from folder in Folders
        let path = $@"{windows.Folder}\{folder}".TrimEnd('\\')
        from file in files.List(path)
        where !file.IsFolder && Kinds.Contains(Path.GetExtension(file.Name), StringComparer.OrdinalIgnoreCase)
        where !Plain.Contains(file.Name, StringComparer.OrdinalIgnoreCase)
        select $@"{path}\{file.Name}"
    ];
}
