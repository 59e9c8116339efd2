using Keel.Core.Blocks;
using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Firmware;
using Keel.Core.History;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Machines;

/// <summary>The machine that a walk goes through: its disks as one. What was read stays until an overlay changes.</summary>
public sealed class Machine : IDisposable
{
    private IReadOnlyList<MachineDisk> all;
    private readonly InsideMachine inside;
    private MachineView? view;
    private readonly Lazy<WindowsMemory?> memory;

    /// <param name="disks">The disk it starts from first, then its others.</param>
    /// <param name="variables">The start variables of its firmware; null where they are not known.</param>
    public Machine(IReadOnlyList<MachineDisk> disks, FirmwareVariables? variables = null)
    {
        all = disks;
        Variables = variables;
        inside = new InsideMachine(this);
        memory = new Lazy<WindowsMemory?>(() => WindowsMemory.Of(this, HistoryScope.LastStarts));
        foreach (var disk in disks) disk.Overlay.Changing += range => Forget(disk, range);
        if (variables is not null) variables.Changing += () => view = null;
    }

    private MachineView View => view ??= new MachineView(this);

    /// <summary>The start variables of its UEFI firmware; null where they are not known.</summary>
    public FirmwareVariables? Variables { get; }

    /// <summary>Whether its firmware starts signed programs only, and whose; asked once.</summary>
    public SecureBoot SecureBoot => field ??= Variables?.ReadSecureBoot() ?? SecureBoot.Unknown;

    /// <summary>Through which firmware the technician says that it starts; null where nothing was said.</summary>
    public FirmwareKind? StartsThrough { get; init; }

    /// <summary>Where the disk failed under start files; null where they were not all read.</summary>
    public StartFileScan? StartFileScan { get; private set; }

    /// <summary>Reads every block of every start file; the walks after that report where the disk failed.</summary>
    public void ScanStartFiles(Action<string, int, int> progress) => StartFileScan = StartFileScan.Read(this, progress);

    /// <summary>
    /// What its Windows remembers of the last starts; null where no Windows is found. Read once, whatever is mended after.
    /// </summary>
    public WindowsMemory? Memory => memory.Value;

    /// <summary>Start programs as they were seen.</summary>
    internal ProgramStates Programs => field ??= new ProgramStates(this);

    /// <summary>Which contents the catalogs of its installations prove.</summary>
    internal ProvenFiles Proven => field ??= new ProvenFiles(this);

    /// <summary>Which start files the catalogs of their installation list.</summary>
    internal ListedFiles Listed => field ??= new ListedFiles();

    /// <summary>Images of files on its volumes that were opened to copy from.</summary>
    internal OpenedImages Images { get; } = new();

    /// <summary>The SYSTEM hive of the Windows that is started; null where no Windows is reached.</summary>
    internal SystemHive? SystemHive => View.SystemHive;

    /// <summary>Its disks, the one that it starts from first.</summary>
    public IReadOnlyList<MachineDisk> Disks => all;

    /// <summary>The disks of this computer that they lie on: what is opened, written, and named in commands.</summary>
    public IReadOnlyList<MachineDisk> NamedDisks => [.. Disks.Select(disk => disk.Outermost).Distinct()];

    /// <summary>The disk that the firmware starts.</summary>
    public MachineDisk StartDisk => Disks[0];

    /// <summary>The volumes of all disks.</summary>
    public IEnumerable<DiskVolume> Volumes => Disks.SelectMany(disk => disk.Volumes);

    /// <summary>The encrypted volumes that no key at hand opens.</summary>
    public IReadOnlyList<DiskVolume> LockedVolumes => [.. Volumes.Where(volume => volume.Kind == FileSystemKind.BitLocker)];

    /// <summary>For which firmware the disk is laid out; its chain is the one that is walked.</summary>
    public FirmwareKind Firmware => View.Firmware.Kind;

    /// <summary>Whether it is a medium that starts by its fallback file alone.</summary>
    internal MediumSign Medium => View.Medium;

    /// <summary>Why the disk is taken for one kind or the other.</summary>
    public Remark FirmwareReason => View.Firmware.Reason;

    /// <summary>Which boot files its firmware needs, and where.</summary>
    public BootFiles BootFiles => Firmware == FirmwareKind.Bios ? BootFiles.Bios : BootFiles.Uefi;

    /// <summary>The volume that holds, or should hold, boot manager and store; null where none can be it.</summary>
    public DiskVolume? SystemVolume => View.System.Volume;

    /// <summary>Why that volume was taken.</summary>
    public Remark SystemVolumeReason => View.System.Reason;

    /// <summary>How the EFI system partition stands.</summary>
    internal SystemVolumeState SystemVolumeState => View.SystemVolumeState;

    /// <summary>The store, or why there is none.</summary>
    public StoreState Store => View.Store;

    /// <summary>The Windows installations on all disks.</summary>
    public IReadOnlyList<WindowsInstallation> Installations
    {
        get
        {
            inside.FindNamed();
            if (View.Installations.Count == 0) inside.FindLying();
            return View.Installations;
        }
    }

    /// <summary>Virtual disks in files of its volumes: those that the store names, and those that were looked for.</summary>
    public InsideMachine Inside => inside;

    /// <summary>Those of them that a store can list: NT 6 and later.</summary>
    public IReadOnlyList<WindowsInstallation> StoreInstallations =>
        [.. Installations.Where(installation => !installation.IsNt5 && inside.IsForStore(installation.Volume))];

    /// <summary>What shows that it is a machine of NT 5; null for later ones.</summary>
    public Remark? Nt5Evidence => View.Nt5.Evidence;

    /// <summary>The list of systems of an NT 5 machine, or why there is none.</summary>
    public BootListState BootList => View.BootList;

    /// <summary>What the NT 5 loader starts when nobody chooses.</summary>
    internal Nt5Start Nt5Start => View.Nt5Start;

    /// <summary>The processor that its Windows is for; null where that can't be told.</summary>
    public System.Reflection.PortableExecutable.Machine? Processor => View.Processor.Processor;

    /// <summary>The letters that the first installation gives to volumes.</summary>
    public DriveLetters? Letters => Installations.Count == 0 ? null : View.Letters;

    /// <summary>What was said of how its disks are to be opened.</summary>
    public DiskTerms Terms { get; private init; } = DiskTerms.Usual;

    /// <summary>Refuses to judge what can't be read here for want of a library, and says how to get it.</summary>
    /// <exception cref="UnreadableException">One is missing.</exception>
    public void RequireLibraries()
    {
        if (Volumes.Any(volume => volume.Kind == FileSystemKind.Ntfs)) FileSystemLibraries.Require();
    }

    /// <summary>
    /// The disk that the firmware's order starts comes first, whichever was named first. Where a disk inside the first one is
    /// meant, the order stays.
    /// </summary>
    private static List<MachineDisk> FirstTheStarted(List<MachineDisk> disks, FirmwareVariables? variables, DiskTerms terms)
    {
        if (disks.Count < 2 || terms.Inside.Count > 0) return disks;
        var started = disks.Find(disk => StartEntry.SystemVolumeOf(variables, [disk]) is { } volume
            && volume == StartEntry.SystemVolumeOf(variables, disks));
        return started is null ? disks : [started, .. disks.Where(disk => disk != started)];
    }

    /// <summary>Opens the disks of a machine for looking.</summary>
    public static Machine Open(params IEnumerable<string> paths) => Open(paths, variables: null, startsThrough: null);

    /// <summary>Opens the disks of a machine for looking, with what is known of its firmware.</summary>
    /// <param name="paths">The paths of its disks or images.</param>
    /// <param name="variables">The firmware's variables; null where the machine has none that keel can see.</param>
    /// <param name="startsThrough">How it starts, where that is known; null to judge by the disk.</param>
    /// <param name="sectorBytes">The sector size of images; null where it is to be told from their tables.</param>
    /// <param name="terms">What else was said of how its disks are to be opened.</param>
    public static Machine Open(
        IEnumerable<string> paths,
        FirmwareVariables? variables,
        FirmwareKind? startsThrough,
        int? sectorBytes = null,
        DiskTerms? terms = null)
    {
        var opening = (terms ?? DiskTerms.Usual) with { SectorBytes = sectorBytes };
        var disks = new List<MachineDisk>();
        try
        {
            foreach (var path in paths)
            {
                var disk = MachineDisk.Open(path, disks.Count == 0 ? opening : opening with { Inside = [] });
                disks.Add(disk);
                if (disks.Count(other => DiskPath.IsSame(other.Path, disk.Path)) > 1)
                {
                    throw new WrongUsageException(
                        $"{path} is named twice.",
                        "A machine has each of its disks once.",
                        "Name every disk of the machine once: the one it starts from first, the others with --with.");
                }
            }

            return new Machine(FirstTheStarted(disks, variables, opening), variables)
            {
                StartsThrough = startsThrough,
                Terms = opening
            };
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
            NamedDisks.Select(disk => disk.Path),
            Variables is { } variables ? FirmwareVariables.Open(variables.Folder) : null,
            StartsThrough,
            sectorBytes,
            Terms);
    }

    /// <summary>The volume that a device value names; null where it names none of this machine's.</summary>
    public DiskVolume? VolumeOf(BootDevice? device) => device switch
    {
        null => null,
        { IsStartedFrom: true } => SystemVolume,
        { IsSearch: true } => OnlyVolumeOfWindows(),
        { IsInVirtualDisk: true } => inside.VolumeOf(device),
        _ => Volumes.FirstOrDefault(volume => device.Names(volume.DiskIdentity, volume.Partition))
    };

    /// <summary>What a search finds: which of several it would be, the order of the firmware decides, unknown here.</summary>
    private DiskVolume? OnlyVolumeOfWindows()
    {
        var volumes = View.Installations.Where(installation => !installation.IsNt5).Select(installation => installation.Volume);
        return volumes.Distinct().Take(2).ToList() is [{ } only] ? only : null;
    }

    /// <summary>The device value that names a volume of this machine, also one inside a virtual disk file.</summary>
    public BootDevice DeviceOf(DiskVolume volume)
    {
        if (Disks.FirstOrDefault(disk => disk.Path == volume.DiskPath) is not { Inside: { } place }
            || place.Host.Inside is not null
            || place.Host == StartDisk.Inside?.Host)
        {
            return BootDevice.Of(volume.DiskIdentity, volume.Partition);
        }

        var holder = place.Host.Volumes.First(other => other.Number == place.Place.Volume);
        return BootDevice.OfVirtual(volume.Partition, BootDevice.Of(holder.DiskIdentity, holder.Partition), place.Place.File);
    }

    /// <summary>Takes a virtual disk in a file of a volume among its disks.</summary>
    internal MachineDisk Add(MachineDisk host, InsidePath place)
    {
        var disk = host.OpenInside(place, isBeside: true);
        all = [.. all, disk];       // another list, for somebody may be going through the old one
        disk.Overlay.Changing += range => Forget(disk, range);
        view = null;
        return disk;
    }

    /// <summary>Whether the store, or boot.ini for one of NT 5, names that installation.</summary>
    public bool IsListed(WindowsInstallation installation) => installation.IsNt5
        ? BootList.List?.Lines.Any(line => line.Arc is { } path
            && ArcPlaces.VolumeOf(this, path) == installation.Volume
            && path.Folder.Equals(installation.Folder, StringComparison.OrdinalIgnoreCase)) == true
        : Store.Store is { } loaded && loaded.WindowsEntries.Any(entry =>
        VolumeOf(entry.Device(Element.WindowsVolume)) == installation.Volume
        && string.Equals(
            entry.Text(Element.WindowsFolder)?.TrimEnd('\\'),
            installation.Folder,
            StringComparison.OrdinalIgnoreCase));

    /// <summary>What has changed in the overlays so far, to come back to.</summary>
    internal MachineState Save() => new([.. Disks.Select(disk => disk.Overlay.Save())], Variables?.Save());

    /// <summary>Goes back to a saved state.</summary>
    internal void Restore(MachineState state)
    {
        foreach (var (disk, number) in Disks.Select((disk, number) => (disk, number)))
            disk.Overlay.Restore(number < state.Disks.Count ? state.Disks[number] : OverlayState.Untouched);
        if (state.Variables is { } variables) Variables!.Restore(variables);
    }

    /// <summary>Looks again at the disks as they are, without anything that was tried in memory.</summary>
    internal void RestoreUntouched() => Restore(new MachineState(
        [.. Disks.Select(_ => OverlayState.Untouched)],
        Variables is null ? null : new Dictionary<string, byte[]?>()));

    /// <inheritdoc/>
    public void Dispose()
    {
        Images.Dispose();
        foreach (var disk in NamedDisks) disk.Dispose();
    }

    private void Forget(MachineDisk disk, ByteRange range)
    {
        view = null;
        Programs.Forget(disk, range);
        Listed.Forget(disk, range);
    }
}
