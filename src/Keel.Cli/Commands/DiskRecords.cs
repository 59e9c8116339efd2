using Keel.Core.Chain;
using Keel.Core.Logbook;

namespace Keel.Cli.Commands;

/// <summary>The repairs of the disk at a path.</summary>
internal static class DiskRecords
{
    public static IReadOnlyList<RepairRecord> Of(string path, RepairLogbook logbook)
    {
        using var disk = MachineDisk.Open(path);
        return logbook.RecordsOf(disk.Path, disk.Layout.Identity, disk.Overlay.LengthBytes);
    }
}
