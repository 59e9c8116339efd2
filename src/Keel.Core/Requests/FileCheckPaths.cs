using Keel.Core.Chain;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Requests;

/// <summary>The paths of the files that a check looks at.</summary>
internal static class FileCheckPaths
{
    private const int DepthLimit = 12, FilesLimit = 500_000;

    private static readonly string[] Kinds =
        [".exe", ".dll", ".sys", ".efi", ".drv", ".ocx", ".cpl", ".scr", ".com", ".nls", ".mui", ".ttf", ".fon", ".ax", ".tsp"];

    /// <summary>The folders of the system, below that of Windows; those with a star with what is below them.</summary>
    private static readonly string[] SystemFolders =
        ["", "System32", @"System32\drivers", @"System32\Boot*", "SysWOW64", @"SysWOW64\drivers", "Boot*", "Fonts"];

    public static IEnumerable<string> Of(Machine machine, WindowsInstallation installation, IVolume files, FileScope scope)
    {
        foreach (var path in OfStart(machine, installation)) yield return path;
        if (scope == FileScope.Start) yield break;
        foreach (var folder in SystemFolders)
        {
            var isDeep = folder.EndsWith('*');
            var path = $@"{installation.Folder}\{folder.TrimEnd('*')}".TrimEnd('\\');
            foreach (var file in Below(files, path, isDeep ? DepthLimit : 0).Take(FilesLimit)) yield return file;
        }

        if (scope == FileScope.System) yield break;
        foreach (var file in Below(files, $@"{installation.Folder}\WinSxS", DepthLimit).Take(FilesLimit)) yield return file;
    }

    /// <summary>What a walk looks at: each program that it met.</summary>
    private static IEnumerable<string> OfStart(Machine machine, WindowsInstallation installation)
    {
        _ = Walk.Of(machine);
        return machine.Programs.Known
            .Where(place => place.DiskPath == installation.Volume.DiskPath && place.Volume == installation.Volume.Number)
            .Select(place => place.Path)
            .Order(StringComparer.OrdinalIgnoreCase);
    }

    private static IEnumerable<string> Below(IVolume files, string folder, int depth)
    {
        foreach (var file in files.List(folder))
        {
            var path = $@"{folder}\{file.Name}";
            if (!file.IsFolder)
            {
                if (Kinds.Contains(Path.GetExtension(file.Name), StringComparer.OrdinalIgnoreCase)) yield return path;
            }
            else if (depth > 0 && (file.Marks & FileMarks.Reparse) == FileMarks.None)
            {
                foreach (var below in Below(files, path, depth - 1)) yield return below;
            }
        }
    }
}
