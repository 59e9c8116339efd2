using Keel.Core.Errors;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Search;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Rescue;

/// <summary>What a volume that was found holds, as far as it tells what kind of partition it had.</summary>
internal sealed record VolumeContents(FoundVolume Found, DiskVolume Volume) : IDisposable
{
    private const string RecoveryFolder = @"\Recovery\WindowsRE";

    /// <summary>Whether UEFI firmware starts from it.</summary>
    public bool IsEfiSystem { get; } = Volume.Kind is FileSystemKind.Fat12 or FileSystemKind.Fat16 or FileSystemKind.Fat32
        && (SystemVolumeChoice.HoldsBootFiles(Volume, BootFiles.Uefi) || Try(Volume, files => files.FolderExists(@"\EFI\Boot")));

    /// <summary>Whether it has the boot manager or the store of a BIOS machine.</summary>
    public bool HoldsBiosFiles { get; } = SystemVolumeChoice.HoldsBootFiles(Volume, BootFiles.Bios)
        || Try(Volume, files => files.FileExists(@"\ntldr"));

    /// <summary>Its Windows installations.</summary>
    public IReadOnlyList<WindowsInstallation> Installations { get; } = InstallationsOn(Volume);

    /// <summary>Whether it holds the recovery environment and no Windows.</summary>
    public bool IsRecovery =>
        Installations.Count == 0 && !HoldsBiosFiles && Try(Volume, files => files.FolderExists(RecoveryFolder));

    /// <summary>Looks into a volume that no table lists yet.</summary>
    public static VolumeContents Of(MachineDisk disk, FoundVolume found, int number)
    {
        var partition = new Partition(
            number,
            found.Range,
            MbrType: 0,
            GptType: default,
            Id: default,
            Active: false,
            Logical: false,
            Name: "");
        var layout = new DiskLayout(PartitionScheme.None, DiskIdentity.None, disk.Overlay.SectorBytes, [partition], []);
        return new VolumeContents(found, new DiskVolume(disk.Path, disk.Overlay, layout, partition, disk.Keys));
    }

    /// <summary>The stores that it holds.</summary>
    public IEnumerable<BootStore> Stores() => new[] { BootFiles.Bios, BootFiles.Uefi }
        .Where(files => Try(Volume, volume => volume.FileExists(files.StorePath)))
        .Select(files => StoreState.Read(Volume, files.StorePath).Store)
        .OfType<BootStore>();

    public void Dispose() => Volume.Dispose();

    private static bool Try(DiskVolume volume, Func<IVolume, bool> ask)
    {
        try
        {
            return volume.Files is { } files && ask(files);
        }
        catch (KeelException)
        {
            return false;
        }
    }

    private static IReadOnlyList<WindowsInstallation> InstallationsOn(DiskVolume volume)
    {
        try
        {
            return InstallationFinder.Find(volume);
        }
        catch (KeelException)
        {
            return [];
        }
    }
}
