using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Programs;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Machines;

/// <summary>
/// Whether a disk is a medium: firmware starts it by the fallback file alone, and no Windows is on it. It lacks neither boot
/// manager nor store, for it never had them.
/// </summary>
/// <param name="Volume">The volume with the fallback file; null where the disk is no such medium.</param>
internal sealed record MediumSign(DiskVolume? Volume)
{
    private static readonly MediumSign None = new((DiskVolume?)null);

    /// <summary>The small partition that Windows reserves is none that something could stand in.</summary>
    private static bool IsReserved(DiskVolume volume) => volume.Partition.GptType == PartitionTypes.GptReserved;

    public static MediumSign Of(Machine machine)
    {
        if (machine.Disks.Count > 1 || machine.StartDisk is not { Layout.Partitions.Count: > 0 } disk) return None;
        var started = disk.Volumes.Where(volume => IsFat(volume) && HasFallback(volume)).ToList();
        return started.Count == 1
            && !StartEntry.IsWindowsNamedOn(machine.Variables, [disk], started[0])
            && !disk.Volumes.Any(volume => MayHoldMore(volume, started[0]))
            ? new MediumSign(started[0])
            : None;
    }

    private static bool IsFat(DiskVolume volume) =>
        volume.Kind is FileSystemKind.Fat12 or FileSystemKind.Fat16 or FileSystemKind.Fat32;

    /// <summary>
    /// A fallback file, and nothing of a boot manager, not even its folder: but for that of a store which starts an image.
    /// </summary>
    private static bool HasFallback(DiskVolume volume)
    {
        try
        {
            return volume.Files is { } files
                && files.Find(BootFiles.Uefi.ManagerPath) is null
                && files.List(FallbackFile.Folder).Any(file => IsFallback(volume, files, file))
                && (files.Find(BootFiles.Uefi.StoreFolder) is null
                    || StoreState.Read(volume, BootFiles.Uefi.StorePath).Store is { StartsOnlyImage: true });
        }
        catch (KeelException)
        {
            return false;
        }
    }

    private static bool IsFallback(DiskVolume volume, IVolume files, VolumeFile file) =>
        !file.IsFolder
            && file.Name.StartsWith("boot", StringComparison.OrdinalIgnoreCase)
            && file.Name.EndsWith(".efi", StringComparison.OrdinalIgnoreCase)
            && ProgramState.Of(volume, files, $@"{FallbackFile.Folder}\{file.Name}", processor: null).Condition
                == ProgramCondition.Sound;

    /// <summary>
    /// What can't be read may be the Windows that the boot manager was for; so may a BIOS machine's boot files.
    /// </summary>
    private static bool MayHoldMore(DiskVolume volume, DiskVolume started)
    {
        if (IsReserved(volume)) return false;
        if (volume.Files is null) return true;
        try
        {
            return (volume != started && SystemVolumeChoice.HoldsBootFiles(volume, BootFiles.Bios))
                || InstallationFinder.Find(volume).Any();
        }
        catch (KeelException)
        {
            return true;
        }
    }

    /// <summary>What is said of it.</summary>
    public Remark Remark(string id) => Facts.Remark.Of(id, Fact.Volume.Is(Volume!.Ref));
}
