using Keel.Core.Errors;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Chain;

/// <summary>Finds the image of a recovery environment: where its Windows remembers it, else where such images lie.</summary>
public static class RecoveryPlaces
{
    private const string UsualFolder = @"\Recovery\WindowsRE", OlderFolder = @"\Recovery";

    /// <summary>The image for a Windows; null where none is found.</summary>
    /// <param name="machine">The machine.</param>
    /// <param name="windows">The volume of the Windows.</param>
    /// <param name="folder">Its folder.</param>
    public static RecoveryImage? Of(Machine machine, DiskVolume windows, string folder)
    {
        if (windows.InFile is not null || windows.Files is not { } files) return null;
        var settings = RecoverySettings.Read(files, folder);
        foreach (var (volume, path) in Candidates(machine, windows, folder, settings).Distinct())
        {
            if (!IsFile(volume, path)) continue;
            return new RecoveryImage(volume, path, SdiFor(machine, volume, path, windows, folder), settings);
        }

        return null;
    }

    /// <summary>Every image on the machine that belongs to one of its installations, each once.</summary>
    public static IReadOnlyList<RecoveryImage> Of(Machine machine) =>
    [
        .. machine.Installations
            .Where(found => !found.IsNt5)
            .Select(found => Of(machine, found.Volume, found.Folder))
            .OfType<RecoveryImage>()
            .DistinctBy(image => (image.Volume, image.File.ToUpperInvariant()))
    ];

    /// <summary>What a store is to list for an installation; null where that is off, or not all there.</summary>
    public static RecoveryToList? ToList(Machine machine, WindowsInstallation installation)
    {
        try
        {
            return Of(machine, installation.Volume, installation.Folder) is { Settings.IsOff: false, IsWhole: true } image
                ? image.ToList()
                : null;
        }
        catch (KeelException)
        {
            return null;        // a disk that does not give it: the store is more important
        }
    }

    private static IEnumerable<(DiskVolume Volume, string Path)> Candidates(
        Machine machine,
        DiskVolume windows,
        string folder,
        RecoverySettings settings)
    {
        var near = Near(machine, windows);
        if (settings.OffsetBytes is { } offset)
        {
            foreach (var volume in near.Where(volume => volume.Partition.Range.Start == offset))
                yield return (volume, $@"{settings.Folder ?? UsualFolder}\{RecoveryImage.FileName}");
        }

        foreach (var volume in near)
            yield return (volume, $@"{UsualFolder}\{RecoveryImage.FileName}");
        foreach (var volume in near)
        {
            foreach (var own in OlderFolders(volume)) yield return (volume, $@"{own}\{RecoveryImage.FileName}");
        }

        yield return (windows, $@"{folder}\System32\Recovery\{RecoveryImage.FileName}");
    }

    /// <summary>Windows 7 has it in a folder that is named after its entry.</summary>
    private static IEnumerable<string> OlderFolders(DiskVolume volume) => volume.Files?.List(OlderFolder)
        .Where(folder => folder.IsFolder && Guid.TryParse(folder.Name, out _))
        .Select(folder => $@"{OlderFolder}\{folder.Name}") ?? [];

    /// <summary>The volumes of the disk of a Windows, then those of the others.</summary>
    private static List<DiskVolume> Near(Machine machine, DiskVolume windows) =>
    [
        .. machine.Volumes
            .Where(volume => volume.InFile is null)
            .OrderBy(volume => volume.DiskPath != windows.DiskPath)
            .ThenBy(volume => !IsForRecovery(volume))
    ];

    private static bool IsForRecovery(DiskVolume volume) =>
        volume.Partition.GptType == PartitionTypes.GptRecovery || volume.Partition.MbrType == PartitionTypes.Recovery;

    /// <summary>The file that a ramdisk begins with: beside the image, else where Windows keeps one.</summary>
    private static (DiskVolume Volume, string File)? SdiFor(
        Machine machine,
        DiskVolume volume,
        string path,
        DiskVolume windows,
        string folder)
    {
        (DiskVolume Volume, string File)[] places =
        [
            (volume, $@"{VolumeExtensions.FolderOf(path)}\{RecoveryImage.SdiName}"),
            .. Near(machine, windows).Select(near => (near, $@"{UsualFolder}\{RecoveryImage.SdiName}")),
            (volume, $@"\boot\{RecoveryImage.SdiName}"),
            (windows, $@"{folder}\Boot\DVD\PCAT\{RecoveryImage.SdiName}"),
            (windows, $@"{folder}\Boot\DVD\EFI\{RecoveryImage.SdiName}")
        ];
        foreach (var place in places)
        {
            if (IsFile(place.Volume, place.File)) return place;
        }

        return null;
    }

    /// <summary>Whether it is there; a volume that can't be read has none.</summary>
    private static bool IsFile(DiskVolume volume, string path)
    {
        try
        {
            return volume.Files?.FileExists(path) == true;
        }
        catch (KeelException)
        {
            return false;
        }
    }
}
