using Keel.Core.BootLists;
using Keel.Core.Volumes;

namespace Keel.Core.Machines;

/// <summary>Which volume an ARC path means, and how a volume is named by one.</summary>
public static class ArcPlaces
{
    /// <summary>The volume that a path means; null where its disk or partition is not here.</summary>
    /// <param name="machine">The machine; its disks stand in the order of the BIOS, the one that it starts from first.</param>
    /// <param name="path">The path.</param>
    public static DiskVolume? VolumeOf(Machine machine, ArcPath path)
    {
        var disk = DiskOf(machine, path);
        return path.Partition > 0 && disk is not null ? Counted(disk).ElementAtOrDefault(path.Partition - 1) : null;
    }

    /// <summary>The disk that a path means; null where it is not here.</summary>
    public static MachineDisk? DiskOf(Machine machine, ArcPath path) => path.Kind switch
    {
        ArcKind.Signature => machine.NamedDisks.FirstOrDefault(disk => disk.Layout.Identity.Signature == path.Adapter),
        ArcKind.Multi => machine.NamedDisks.ElementAtOrDefault(path.Rdisk),
        _ => machine.NamedDisks is [var only] ? only : null         // which unit of the bus that is, no image tells
    };

    /// <summary>The path of a folder on a volume; null where it has none: the volume lies in a file.</summary>
    public static ArcPath? Of(Machine machine, DiskVolume volume, string folder)
    {
        var disks = machine.NamedDisks;
        var disk = disks.ToList().FindIndex(known => known.Path == volume.DiskPath);
        if (disk < 0 || volume.InFile is not null) return null;
        var partition = Counted(disks[disk]).IndexOf(volume);
        return partition < 0 ? null : ArcPath.OnDisk(disk, partition + 1, folder);
    }

    /// <summary>The partitions as the loader counts them: primary ones in the order of the table, then logical ones.</summary>
    private static List<DiskVolume> Counted(MachineDisk disk) =>
        [.. disk.Volumes.OrderBy(volume => volume.Partition.Logical).ThenBy(volume => volume.Partition.Number)];
}
