using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Search;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Chain;

/// <summary>
/// Volumes that no partition lists, and that a start needs. Looked for only where something is missing, for free space is full of
/// what was deleted on purpose.
/// </summary>
internal static class UnlistedVolumes
{
    public static readonly FindingKind Kind = new(
        "volume-unlisted",
        Link.DiskLayout,
        Severity.Error,
        "A volume that the machine starts from stands on the disk, and no partition lists it.",
        StartupScreens.NoSuchDevice,
        StartupScreens.NoBootDevice,
        StartupScreens.MissingSystem,
        StartupScreens.ManagerMissing)
    { HidesFrom = Link.MbrCode };

    public static IReadOnlyList<FindingKind> Kinds => [Kind];

    /// <summary>A finding for each of them.</summary>
    public static IEnumerable<Finding> Of(Machine machine)
    {
        var disk = machine.StartDisk;
        if (disk.Layout.Partitions.Count == 0 || disk.ReadErrors.Any) yield break;
        if (disk.Layout.Has(LayoutProblemKind.Overlap) || disk.Layout.Has(LayoutProblemKind.PastEnd)) yield break;
        if (!IsSomethingMissing(machine)) yield break;
        foreach (var volume in disk.QuickSearch().Volumes.Where(volume => volume.IsCertain && !IsListed(disk.Layout, volume)))
        {
            if (!IsNamed(machine, volume) && !HoldsSystem(disk, volume)) continue;
            yield return Kind.At(
                Fact.Disk.Is(disk.Path),
                Fact.FileSystem.Is(volume.Name),
                Fact.AtByte.Is(volume.Range.Start),
                Fact.SizeBytes.Is(volume.Range.Length));
        }
    }

    private static bool IsListed(DiskLayout layout, FoundVolume volume) =>
        layout.Partitions.Any(partition => !partition.IsExtended && partition.Range.Overlaps(volume.Range));

    private static bool IsSomethingMissing(Machine machine)
    {
        try
        {
            if (machine.SystemVolume is not { } system) return true;
            if (system.Files is not null && !SystemVolumeChoice.HoldsBootFiles(system, machine.BootFiles)) return true;
            if (Devices(machine).Any(device => machine.VolumeOf(device) is null)) return true;
            return machine.Installations.Count == 0
                && machine.Volumes.All(volume => volume.Kind != FileSystemKind.BitLocker && volume.FilesProblem is null);
        }
        catch (KeelException)
        {
            return false;
        }
    }

    /// <summary>Whether the store names the very place.</summary>
    private static bool IsNamed(Machine machine, FoundVolume volume) => Devices(machine).Any(device =>
        device.StartBytes == volume.Range.Start && device.Disk == machine.StartDisk.Layout.Identity);

    private static IEnumerable<BootDevice> Devices(Machine machine) =>
        machine.Store.Store is not { } store
            ? []
            : store.WindowsEntries
                .SelectMany(entry => new[] { entry.Device(Element.WindowsVolume), entry.Device(Element.ProgramVolume) })
                .OfType<BootDevice>()
                .Where(device => device.IsPartition);

    private static bool HoldsSystem(MachineDisk disk, FoundVolume found)
    {
        var partition = new Partition(
            disk.Layout.Partitions.Max(listed => listed.Number) + 1,
            found.Range,
            MbrType: 0,
            GptType: default,
            Id: default,
            Active: false,
            Logical: false,
            Name: "");
        using var volume = new DiskVolume(disk.Path, disk.Overlay, disk.Layout, partition, disk.Keys);
        try
        {
            return SystemVolumeChoice.HoldsBootFiles(volume, BootFiles.Bios)
                || SystemVolumeChoice.HoldsBootFiles(volume, BootFiles.Uefi)
                || InstallationFinder.Find(volume).Count > 0;
        }
        catch (KeelException)
        {
            return false;
        }
    }
}
