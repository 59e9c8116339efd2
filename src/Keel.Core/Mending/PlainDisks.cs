using Keel.Core.Errors;
using Keel.Core.Layout;
using Keel.Core.Machines;

namespace Keel.Core.Mending;

/// <summary>Disks whose partitions are managed by something that keel does not understand are not written.</summary>
public static class PlainDisks
{
    /// <exception cref="RefusedException">A disk that would change is a dynamic disk or part of a storage pool.</exception>
    public static void RefuseOthers(Machine machine)
    {
        foreach (var disk in machine.Disks.Where(disk => disk.Overlay.Changes().Any))
        {
            if (disk.Layout.Partitions.FirstOrDefault(IsManaged) is not { } partition) continue;
            throw new RefusedException(
                $"{disk.Path} is not a plain disk, and nothing was written.",
                $"Partition {partition.Number} says {partition.TypeName}: Windows keeps a layout of its own there.",
                "Work on it from Windows, or copy its data off first.");
        }
    }

    private static bool IsManaged(Partition partition) => partition.MbrType == PartitionTypes.Dynamic
        || partition.GptType == PartitionTypes.GptDynamicMetadata
            || partition.GptType == PartitionTypes.GptDynamicData
            || partition.GptType == PartitionTypes.GptStoragePool;
}
