using Keel.Core.Firmware;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Machines;

/// <summary>A start entry of the firmware, seen beside the disks of the machine.</summary>
/// <param name="Number">As in Boot0003.</param>
/// <param name="Option">What it says; null where it is damaged, or where the order names an entry that is not there.</param>
/// <param name="Place">Its place in the start order, from 1; null where it is not in it.</param>
/// <param name="Target">Whether what it starts is here.</param>
/// <param name="Volume">The volume that it names, where it is here.</param>
public sealed record StartEntry(ushort Number, LoadOption? Option, int? Place, StartTarget Target, DiskVolume? Volume)
{
    private const string PartitionsOfThisComputer = "/dev/disk/by-partuuid";

    /// <summary>The variable's name, such as Boot0003.</summary>
    public string Name => FirmwareVariables.ShortName(Number);

    /// <summary>What the firmware's menu calls it; empty where the entry can't be read.</summary>
    public string Title => Option?.Title ?? "";

    /// <summary>What it starts, in words. May hold text from the firmware.</summary>
    public string Describe()
    {
        if (Option is not { } option) return "damaged, or not there";
        var file = option.FilePath;
        if (option.HardDrive is not { } place) return file ?? string.Join(", ", option.Path.Select(node => node.Kind).Distinct());
        return $"{file ?? "the fallback file"} on "
            + $"{Volume?.ToString() ?? $"partition {place.Number}{(place.IsGpt ? $" {place.Id}" : "")}"}";
    }

    /// <summary>All entries of the machine's firmware, in the order of the start.</summary>
    public static IReadOnlyList<StartEntry> Of(Machine machine)
    {
        if (machine.Variables is not { } variables) return [];
        var order = variables.Order;
        return [.. order
            .Concat(variables.Numbers)
            .Distinct()
            .Select(number => Of(machine, variables, number, order.ToList().IndexOf(number)))];
    }

    /// <summary>Whether it starts the Windows boot manager on the machine's system volume.</summary>
    internal bool IsWindowsOf(Machine machine) =>
        Volume is not null
            && Volume == machine.SystemVolume
            && BootFiles.Uefi.ManagerPath.Equals(Option?.FilePath, StringComparison.OrdinalIgnoreCase);

    private static StartEntry Of(Machine machine, FirmwareVariables variables, ushort number, int index)
    {
        var option = variables.Entry(number);
        int? place = index >= 0 ? index + 1 : null;
        if (option is null) return new StartEntry(number, null, place, StartTarget.Gone, null);
        if (option.HardDrive is not { } partition) return new StartEntry(number, option, place, StartTarget.NotJudged, null);
        var volume = VolumeOf(machine.Disks, partition);
        if (volume is null)
        {
            return new StartEntry(
                number,
                option,
                place,
                IsOnThisComputer(variables, partition) ? StartTarget.NotJudged : StartTarget.Gone,
                null);
        }

        var isThere = option.FilePath is not { } file
            || volume.Files is not { } files
            || SystemFiles.Blocked(machine, volume)
            || files.FileExists(file);
        return new StartEntry(number, option, place, isThere ? StartTarget.Here : StartTarget.FileGone, volume);
    }

    /// <summary>
    /// The EFI system partition that the firmware starts Windows from, on whichever disk: the one that the first entry of its
    /// order names whose partition is here; null where none is named, or no variables are known.
    /// </summary>
    internal static DiskVolume? SystemVolumeOf(FirmwareVariables? variables, IReadOnlyList<MachineDisk> disks)
    {
        if (variables is null) return null;
        var started = variables.Order
            .Select(variables.Entry)
            .OfType<LoadOption>()
            .Where(option => option.IsActive && option.HardDrive is not null)
            .Select(option => (Option: option, Volume: VolumeOf(disks, option.HardDrive!)))
            .Where(one => one.Volume is { Partition.IsEfiSystem: true })
            .ToList();
        var windows = started.Find(one =>
            BootFiles.Uefi.ManagerPath.Equals(one.Option.FilePath, StringComparison.OrdinalIgnoreCase));
        return windows.Volume
            ?? started.Find(one => SystemVolumeChoice.HoldsBootFiles(one.Volume!, BootFiles.Uefi)).Volume;
    }

    /// <summary>Whether any entry of the firmware, in its order or not, names the Windows boot manager on a volume.</summary>
    internal static bool IsWindowsNamedOn(FirmwareVariables? variables, IReadOnlyList<MachineDisk> disks, DiskVolume volume) =>
        variables is not null && variables.Numbers
            .Select(variables.Entry)
            .OfType<LoadOption>()
            .Any(option => option.HardDrive is { } place
                && VolumeOf(disks, place) == volume
                && BootFiles.Uefi.ManagerPath.Equals(option.FilePath, StringComparison.OrdinalIgnoreCase));

    private static DiskVolume? VolumeOf(IEnumerable<MachineDisk> disks, HardDrivePlace partition) => disks
        .SelectMany(disk =>
            disk.Volumes.Where(volume => partition.Names(volume.DiskIdentity, volume.Partition, disk.Overlay.SectorBytes)))
        .FirstOrDefault();

    /// <summary>On the machine itself the system knows every partition, also of disks that were not named.</summary>
    private static bool IsOnThisComputer(FirmwareVariables variables, HardDrivePlace partition) =>
        variables.Folder == FirmwareVariables.UsualFolder
            && File.Exists(Path.Combine(PartitionsOfThisComputer, partition.Id.ToString()));
}
