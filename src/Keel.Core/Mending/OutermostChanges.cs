using Keel.Core.Machines;

namespace Keel.Core.Mending;

/// <summary>
/// What changes on the disks of this computer, where some of a machine's disks are files inside others: their changes become
/// changes of the disks that they lie on, and the machine is left as it was.
/// </summary>
internal static class OutermostChanges
{
    public static IReadOnlyList<DiskChange> Changes(Machine machine)
    {
        var inside = machine.Disks
            .SelectMany(Layers)
            .Distinct()
            .OrderByDescending(disk => Layers(disk).Count())
            .Where(disk => disk.Inside is not null)
            .ToList();
        var hosts = inside.Select(disk => disk.Inside!.Host).Distinct().ToList();
        var saved = hosts.ConvertAll(host => (host.Overlay, State: host.Overlay.Save()));
        try
        {
            foreach (var disk in inside) disk.Inside!.Fold(disk.Overlay.Changes());
            return [.. machine.NamedDisks.Select(Of)];
        }
        finally
        {
            foreach (var (overlay, state) in saved) overlay.Restore(state);
        }
    }

    private static DiskChange Of(MachineDisk disk) =>
        new(disk.Path, disk.Traits, disk.IdentityNow, disk.Layout.Identity, disk.Overlay.Changes());

    /// <summary>A disk, the one that it lies in, and so on outwards.</summary>
    private static IEnumerable<MachineDisk> Layers(MachineDisk disk)
    {
        for (var layer = disk; layer is not null; layer = layer.Inside?.Host) yield return layer;
    }
}
