using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Logbook;

namespace Keel.Cli.Commands;

/// <summary>The repairs of the disk, or of the firmware's variables, at a path.</summary>
internal static class DiskRecords
{
    /// <summary>The path in full, checked.</summary>
    public static string Resolve(string path) => Directory.Exists(path) ? Path.GetFullPath(path).TrimEnd('/') : DiskPath.Resolve(path);

    /// <param name="path">A disk, or the folder of a firmware's variables.</param>
    public static IReadOnlyList<RepairRecord> Of(string path, RepairLogbook logbook)
    {
        if (Directory.Exists(path)) return logbook.RecordsOf(Path.GetFullPath(path));
        using var disk = MachineDisk.Open(path);
        return logbook.RecordsOf(disk.Path, disk.Layout.Identity, disk.Overlay.LengthBytes);
    }
}
