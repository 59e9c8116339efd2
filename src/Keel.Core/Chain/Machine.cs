using Keel.Core.Blocks;
using Keel.Core.Chain.Checks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Firmware;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Chain;

/// <summary>The machine that a walk goes through: its disks as one. What was read stays until an overlay changes.</summary>
public sealed class Machine : IDisposable
{
    private long seenVersion = -1;
    private SystemVolumeChoice? system;
    private StoreState? store;
    private IReadOnlyList<WindowsInstallation>? installations;
    private DriveLetters? letters;
    private ProcessorChoice? processor;
    private LinkReport? systemReport;
    private SystemHive? systemHive;
    private Nt5Sign? nt5;

    /// <param name="disks">The disk it starts from first, then its others.</param>
    /// <param name="variables">The start variables of its firmware; null where they are not known.</param>
    public Machine(IReadOnlyList<MachineDisk> disks, FirmwareVariables? variables = null)
    {
        Disks = disks;
        Variables = variables;
    }

    /// <summary>The start variables of its UEFI firmware; null where they are not known.</summary>
    public FirmwareVariables? Variables { get; }

    /// <summary>Through which firmware the technician says that it starts; null where nothing was said.</summary>
    public FirmwareKind? StartsThrough { get; init; }

    /// <summary>Where the disk failed under start files; null where they were not all read.</summary>
    public Surface? Surface { get; private set; }

    /// <summary>Reads every block of every start file; the walks after that report where the disk failed.</summary>
    public void ReadSurface(Action<string, int, int> progress) => Surface = Surface.Read(this, progress);

    /// <summary>Start programs as they were seen.</summary>
    internal StartPrograms Programs => field ??= new StartPrograms(this);

    /// <summary>The SYSTEM hive of the Windows that is started; null where no Windows is reached.</summary>
    internal SystemHive? SystemHive =>
        StartedWindows.Of(this).Windows is { } windows
            ? Fresh(ref systemHive, () => Windows.SystemHive.Read(windows.Files, windows.SystemHivePath))
            : null;

    public IReadOnlyList<MachineDisk> Disks { get; }

    /// <summary>The disk that the firmware starts.</summary>
    public MachineDisk StartDisk => Disks[0];

    public IEnumerable<DiskVolume> Volumes => Disks.SelectMany(disk => disk.Volumes);

    /// <summary>For which firmware the disk is laid out; its chain is the one that is walked.</summary>
    public FirmwareKind Firmware => FirmwareGuess.Of(StartDisk).Kind;

    /// <summary>Why the disk is taken for one kind or the other.</summary>
    public Remark FirmwareReason => FirmwareGuess.Of(StartDisk).Reason;

    public BootFiles BootFiles => Firmware == FirmwareKind.Bios ? BootFiles.Bios : BootFiles.Uefi;

    /// <summary>The volume that holds, or should hold, boot manager and store; null where none can be it.</summary>
    public DiskVolume? SystemVolume => Fresh(ref system, () => SystemVolumeChoice.Of(this)).Volume;

    /// <summary>Why that volume was taken.</summary>
    public Remark SystemVolumeReason => Fresh(ref system, () => SystemVolumeChoice.Of(this)).Reason;

    /// <summary>How the EFI system partition stands.</summary>
    internal LinkReport SystemVolumeReport => Fresh(ref systemReport, () => SystemVolumeCheck.Look(this));

    public StoreState Store => Fresh(ref store, () => SystemVolume is { } volume && SystemFiles.Blocked(this, volume)
        ? new StoreState(StoreCondition.NoVolume, BootFiles.StorePath, Remark.Of("system-volume.first"), null)
        : StoreState.Read(SystemVolume, BootFiles.StorePath));

    /// <summary>The Windows installations on all disks.</summary>
    public IReadOnlyList<WindowsInstallation> Installations =>
        Fresh(ref installations, () => [.. Volumes.SelectMany(InstallationsOn)]);

    /// <summary>Those of them that a store can list: NT 6 and later.</summary>
    public IReadOnlyList<WindowsInstallation> StoreInstallations => [.. Installations.Where(installation => !installation.IsNt5)];

    /// <summary>What shows that it is a machine of NT 5; null for later ones.</summary>
    public Remark? Nt5Evidence => Fresh(ref nt5, () => Nt5Sign.Of(this)).Evidence;

    /// <summary>The processor that its Windows is for; null where that can't be told.</summary>
    public System.Reflection.PortableExecutable.Machine? Processor =>
        Fresh(ref processor, () => ProcessorChoice.Of(Installations)).Processor;

    /// <summary>The letters that the first installation gives to volumes.</summary>
    public DriveLetters? Letters => Installations.Count == 0 ? null : Fresh(ref letters, () => DriveLetters.Of(Installations[0]));

    /// <summary>Opens the disks of a machine for looking.</summary>
    public static Machine Open(params IEnumerable<string> paths) => Open(paths, variables: null, startsThrough: null);

    /// <summary>Opens the disks of a machine for looking, with what is known of its firmware.</summary>
    /// <param name="sectorBytes">The sector size of images; null where it is to be told from their tables.</param>
    public static Machine Open(
        IEnumerable<string> paths,
        FirmwareVariables? variables,
        FirmwareKind? startsThrough,
        int? sectorBytes = null)
    {
        var disks = new List<MachineDisk>();
        try
        {
            foreach (var path in paths)
            {
                var disk = MachineDisk.Open(path, sectorBytes);
                disks.Add(disk);
                if (disks.Count(other => DiskPath.IsSame(other.Path, disk.Path)) > 1)
                {
                    throw new WrongUsageException(
                        $"{path} is named twice.",
                        "A machine has each of its disks once.",
                        "Name every disk of the machine once: the one it starts from first, the others with --with.");
                }
            }

            return new Machine(disks, variables) { StartsThrough = startsThrough };
        }
        catch
        {
            disks.ForEach(disk => disk.Dispose());
            throw;
        }
    }

    /// <summary>Opens the same disks and variables anew, as they are now.</summary>
    public Machine OpenAgain()
    {
        var sectorBytes = StartDisk.Overlay.SectorBytes;
        return Open(
            Disks.Select(disk => disk.Path),
            Variables is { } variables ? FirmwareVariables.Open(variables.Folder) : null,
            StartsThrough,
            sectorBytes);
    }

    /// <summary>The volume that a device value names; null where it names none of this machine's.</summary>
    public DiskVolume? VolumeOf(BootDevice? device) => device switch
    {
        null => null,
        { IsStartedFrom: true } => SystemVolume,
        _ => Volumes.FirstOrDefault(volume => device.Names(volume.DiskIdentity, volume.Partition))
    };

    /// <summary>Whether a Windows entry of the store names that installation.</summary>
    public bool IsListed(WindowsInstallation installation) => Store.Store is { } loaded && loaded.WindowsEntries.Any(entry =>
        VolumeOf(entry.Device(Element.WindowsVolume)) == installation.Volume
        && string.Equals(
            entry.Text(Element.WindowsFolder)?.TrimEnd('\\'),
            installation.Folder,
            StringComparison.OrdinalIgnoreCase));

    /// <summary>Forgets every change made in the overlays.</summary>
    public void Discard()
    {
        foreach (var disk in Disks)
        {
            if (disk.Overlay.Version > 0) disk.Overlay.Restore(OverlayState.Untouched);
        }

        if (Variables is { Version: > 0 }) Variables.Restore(new Dictionary<string, byte[]?>());
    }

    /// <summary>What has changed in the overlays so far, to come back to.</summary>
    internal MachineState Save() => new([.. Disks.Select(disk => disk.Overlay.Save())], Variables?.Save());

    /// <summary>Goes back to a saved state.</summary>
    internal void Restore(MachineState state)
    {
        foreach (var (disk, saved) in Disks.Zip(state.Disks)) disk.Overlay.Restore(saved);
        if (state.Variables is { } variables) Variables!.Restore(variables);
    }

    public void Dispose()
    {
        foreach (var disk in Disks) disk.Dispose();
    }

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

    private T Fresh<T>(ref T? kept, Func<T> read)
        where T : class
    {
        var version = Disks.Sum(disk => disk.Overlay.Version) + (Variables?.Version ?? 0);
        if (version != seenVersion)
        {
            (system, store, installations, letters, processor, systemReport, systemHive, nt5) =
                (null, null, null, null, null, null, null, null);
            seenVersion = version;
        }

        return kept ??= read();
    }
}
