using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Machines;

/// <summary>
/// What was read of a machine as it stands now. When a byte of it changes, the whole view is given up for a new one.
/// </summary>
internal sealed class MachineView(Machine machine)
{
    /// <summary>For which firmware the start disk is laid out.</summary>
    public FirmwareGuess Firmware => field ??= Medium.Volume is { Scheme: Layout.PartitionScheme.Mbr }
        ? new FirmwareGuess(FirmwareKind.Uefi, Medium.Remark("firmware.fallback-alone"))
        : FirmwareGuess.Of(machine.StartDisk);

    /// <summary>Whether the disk is a medium that starts by its fallback file.</summary>
    public MediumSign Medium => field ??= MediumSign.Of(machine);

    public SystemVolumeChoice System => field ??= SystemVolumeChoice.Of(machine);

    /// <summary>How the EFI system partition stands.</summary>
    public SystemVolumeState SystemVolumeState => field ??= SystemVolumeState.Of(machine);

    public StoreState Store => field ??= ReadStore();

    /// <summary>The Windows installations on all disks.</summary>
    public IReadOnlyList<WindowsInstallation> Installations => field ??= [.. machine.Volumes.SelectMany(InstallationsOn)];

    public Nt5Sign Nt5 => field ??= Nt5Sign.Of(machine);

    /// <summary>The list of systems of an NT 5 machine.</summary>
    public BootListState BootList => field ??= BootListState.Of(machine);

    /// <summary>What its loader starts when nobody chooses.</summary>
    public Nt5Start Nt5Start => field ??= Nt5Start.Of(machine);

    public ProcessorChoice Processor => field ??= ProcessorChoice.Of(Installations);

    /// <summary>The letters that the first installation gives to volumes; there has to be one.</summary>
    public DriveLetters Letters => field ??= DriveLetters.Of(Installations[0]);

    /// <summary>The SYSTEM hive of the Windows that is started; null where no Windows is reached.</summary>
    public SystemHive? SystemHive => field ??= ReadSystemHive();

    private StoreState ReadStore()
    {
        var path = machine.BootFiles.StorePath;
        return System.Volume is { } volume && SystemFiles.Blocked(machine, volume)
            ? new StoreState(StoreCondition.NoVolume, path, Remark.Of("system-volume.first"), null)
            : StoreState.Read(System.Volume, path);
    }

    private SystemHive? ReadSystemHive() =>
        StartedWindows.Of(machine).Windows is { } windows ? Windows.SystemHive.Read(windows.Files, windows.SystemHivePath) : null;

    /// <summary>A volume that can't be read hides no installation on another.</summary>
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
