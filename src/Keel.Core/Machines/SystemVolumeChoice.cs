using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Machines;

/// <summary>Which volume holds, or should hold, boot manager and store.</summary>
internal sealed record SystemVolumeChoice(DiskVolume? Volume, Remark Reason)
{
    public static SystemVolumeChoice Of(Machine machine) =>
        machine.Firmware == FirmwareKind.Uefi ? OfUefi(machine) : OfBios(machine.StartDisk);

    /// <summary>Whether boot manager or store are on a volume.</summary>
    internal static bool HoldsBootFiles(DiskVolume volume, BootFiles files) =>
        Holds(volume, files.ManagerPath) || Holds(volume, files.StorePath);

    /// <summary>
    /// Whether a volume with boot files is the machine maker's, which starts a recovery of its own and no Windows.
    /// </summary>
    private static bool IsOfRecovery(DiskVolume volume)
    {
        if (volume.Partition.MbrType == PartitionTypes.Recovery) return true;
        return Holds(volume, BootFiles.Bios.StorePath)
            && StoreState.Read(volume, BootFiles.Bios.StorePath).Store is { Entries.Count: > 0, WindowsEntries.Count: 0 };
    }

    /// <summary>Whether a file is known to be there: what can't be read is judged by the link that needs it.</summary>
    private static bool Holds(DiskVolume volume, string path)
    {
        try
        {
            return volume.Files?.Find(path) is not null;
        }
        catch (KeelException)
        {
            return false;
        }
    }

    private static SystemVolumeChoice OfUefi(Machine machine)
    {
        if (machine.Medium is { Volume: { } medium } sign) return new(medium, sign.Remark("system-volume.medium"));
        if (StartEntry.SystemVolumeOf(machine.Variables, [machine.StartDisk]) is { } started)
            return new(started, Remark.Of("system-volume.esp-of-entry"));
        var marked = machine.StartDisk.Volumes.Where(candidate => candidate.Partition.IsEfiSystem).ToList();
        if (marked.Find(volume => HoldsBootFiles(volume, BootFiles.Uefi)) is { } holder)
            return new(holder, marked.Count == 1 ? Remark.Of("system-volume.esp") : Remark.Of("system-volume.esp-with-files"));
        if (machine.StartDisk.Volumes.FirstOrDefault(volume =>
            IsFat(volume) && HoldsBootFiles(volume, BootFiles.Uefi)) is { } other)
        {
            return new(other, Remark.Of("system-volume.efi-files"));
        }

        return marked.Count > 0 ? new(marked[0], Remark.Of("system-volume.esp")) : new(null, Remark.Of("system-volume.no-esp"));
    }

    private static bool IsFat(DiskVolume volume) =>
        volume.Kind is FileSystemKind.Fat12 or FileSystemKind.Fat16 or FileSystemKind.Fat32;

    private static SystemVolumeChoice OfBios(MachineDisk disk)
    {
        var primary = disk.Volumes.Where(volume => !volume.Partition.Logical).ToList();
        var active = primary.Where(volume => volume.Partition.Active).ToList();
        var holders = primary.Where(volume => HoldsBootFiles(volume, BootFiles.Bios)).ToList();
        if (holders.Count > 1 && holders.Where(holder => !IsOfRecovery(holder)).ToList() is { Count: > 0 } own) holders = own;
        if (holders.FirstOrDefault(active.Contains) is { } both) return new(both, Remark.Of("system-volume.active-with-files"));
        if (holders.Count > 0)
        {
            return new(
                holders[0],
                active.Count == 0 ? Remark.Of("system-volume.files") : Remark.Of("system-volume.files-not-active"));
        }

        var older = primary.Where(volume => Nt5Sign.Files.Any(path => Holds(volume, path))).ToList();
        if (older.Count > 0 && !older.Any(active.Contains)) return new(older[0], Remark.Of("system-volume.files"));
        if (disk.Layout.Has(LayoutProblemKind.Overlap) || disk.Layout.Has(LayoutProblemKind.PastEnd))
            return new(null, Remark.Of("system-volume.table-damaged"));
        if (active.Count > 0) return new(active[0], Remark.Of("system-volume.active"));
        return primary.Count == 1 ? new(primary[0], Remark.Of("system-volume.only")) : new(null, Remark.Of("system-volume.none"));
    }
}
