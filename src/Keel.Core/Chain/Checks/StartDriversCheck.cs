using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Windows;
using Keel.Core.Windows.Drivers;

namespace Keel.Core.Chain.Checks;

/// <summary>The drivers that start with Windows: their files, and whether those that reach the disk are switched on.</summary>
internal sealed class StartDriversCheck : ILinkCheck
{
    public static readonly FindingKind Missing = new(
        "driver-missing",
        Link.StartDrivers,
        Severity.Error,
        "The file of a driver that Windows needs to start is missing.",
        StartupScreens.NoSuchFile,
        StartupScreens.InaccessibleBootDevice,
        StartupScreens.AutomaticRepair);

    public static readonly FindingKind Altered = new(
        "driver-altered",
        Link.StartDrivers,
        Severity.Error,
        "The file of a driver that Windows needs to start has been altered.",
        StartupScreens.ChecksumMismatch,
        StartupScreens.InvalidHash,
        StartupScreens.InaccessibleBootDevice);

    public static readonly FindingKind Damaged = new(
        "driver-damaged",
        Link.StartDrivers,
        Severity.Error,
        "The file of a driver that Windows needs to start is damaged.",
        StartupScreens.InvalidImage,
        StartupScreens.FileCorrupt,
        StartupScreens.InaccessibleBootDevice);

    public static readonly FindingKind WrongMachine = new(
        "driver-wrong-machine",
        Link.StartDrivers,
        Severity.Error,
        "The file of a driver that Windows needs to start is for another processor.",
        StartupScreens.WrongProcessor32,
        StartupScreens.WrongProcessor64);

    public static readonly FindingKind NewAndBad = new(
        "driver-new-and-bad",
        Link.StartDrivers,
        Severity.Error,
        "A driver that was installed after the last good start has a bad file.",
        StartupScreens.ChecksumMismatch,
        StartupScreens.InvalidHash,
        StartupScreens.InaccessibleBootDevice,
        StartupScreens.AutomaticRepair);

    public static readonly FindingKind StorageDisabled = new(
        "storage-driver-disabled",
        Link.StartDrivers,
        Severity.Error,
        "No driver for the disk's controller is switched on.",
        StartupScreens.InaccessibleBootDevice);

    public static readonly FindingKind ControllerAbsent = new(
        "controller-driver-absent",
        Link.StartDrivers,
        Severity.Error,
        "This Windows has no driver for any disk controller.",
        StartupScreens.InaccessibleBootDevice)
    {
        Beyond = "Bring the driver of this machine's disk controller: keel services install DISK FOLDER. Or set the controller "
            + "to the mode that it had, in the firmware's settings."
    };

    public static readonly FindingKind ControllerNotProven = new(
        "controller-driver-not-proven",
        Link.StartDrivers,
        Severity.Warning,
        "Whether Windows takes a driver that was brought in for its disk controller is not proven.",
        StartupScreens.InaccessibleBootDevice)
    {
        Beyond = "Start it and see. If it shows 0x7B again, set the controller to the mode that it had, in the firmware's "
            + "settings, or bring the drivers in with the machine's own recovery environment."
    };

    public static readonly FindingKind KeyMissing = new(
        "start-driver-key-missing",
        Link.StartDrivers,
        Severity.Error,
        "The SYSTEM hive has no key for a driver that every Windows needs.",
        StartupScreens.InaccessibleBootDevice)
    {
        Beyond = "Bring the SYSTEM hive back from a restore point or a backup of this machine: what else was deleted in it "
            + "can't be told."
    };

    public static readonly FindingKind Disabled = new(
        "start-driver-disabled",
        Link.StartDrivers,
        Severity.Error,
        "A driver on the way to the disk is switched off.",
        StartupScreens.InaccessibleBootDevice);

    public static readonly FindingKind Uncritical = new(
        "driver-file-odd",
        Link.StartDrivers,
        Severity.Note,
        "The file of a driver is missing or odd, and Windows starts without it.");

    public static readonly FindingKind StorageOff = new(
        "storage-driver-off",
        Link.StartDrivers,
        Severity.Note,
        "The driver of a common kind of disk controller is switched off.",
        StartupScreens.InaccessibleBootDevice);

    private static readonly ProgramKinds FileKinds = new(Missing, Damaged, Damaged, Altered, WrongMachine, Damaged);

    /// <summary>Drivers of disk controllers that Windows brings along.</summary>
    private static readonly string[] Controllers = [
        "storahci",
        "stornvme",
        "msahci",
        "pciide",
        "intelide",
        "atapi",
        "amdide",
        "viaide",
        "iastorv",
        "iastorav",
        "iastora",
        "iastorvd",
        "iastorac",
        "storvsc",
        "lsi_sas",
        "lsi_sas2i",
        "viostor",
        "vioscsi",
        "nvme",
        "secnvme"
    ];

    /// <summary>Drivers without which no Windows of NT 6 or later finds its own volume.</summary>
    private static readonly string[] Needed = ["partmgr", "volmgr", "disk", "ntfs"];

    /// <summary>The same for NT 5, which also needs the driver of its file system.</summary>
    private static readonly string[] NeededByNt5 = ["partmgr", "ftdisk", "disk"];

    /// <summary>What every driver of a disk controller is built on.</summary>
    private static readonly string[] PortLibraries =
        ["storport.sys", "scsiport.sys", "ataport.sys", "pciidex.sys", "vmbkmcl.sys"];

    /// <summary>Those of most machines: SATA and NVMe.</summary>
    private static readonly string[] Common = ["storahci", "stornvme"];

    /// <summary>Drivers between controller and volume, without which no disk is seen.</summary>
    private static readonly string[] OnTheWay = ["acpi", "pci", "partmgr", "volmgr", "disk"];

    /// <summary>
    /// Drivers that a Windows since Vista also starts with, each of which the volume it starts from hangs on: switched off, or
    /// without a file, the start ends.
    /// </summary>
    private static readonly string[] BehindTheDisk =
        ["mountmgr", "volume", "volmgrx", "volsnap", "fvevol", "fltmgr", "clfs", "cng", "ksecdd"];

    /// <summary>Those of both that every Windows since Vista has a key for.</summary>
    private static readonly string[] Usual =
        ["acpi", "pci", "partmgr", "volmgr", "volmgrx", "disk", "mountmgr", "volsnap", "fltmgr", "clfs", "ksecdd", "ntfs"];

    /// <summary>The bus of a virtual machine that has no other.</summary>
    private static readonly string[] VirtualBuses = ["vmbus", "vpci"];

    /// <summary>The group of the driver that looks at all others first.</summary>
    private const string EarlyLaunch = "Early-Launch";

    public Link Link => Link.StartDrivers;

    public IReadOnlyList<FindingKind> Kinds =>
    [
        KeyMissing, Missing, Altered, Damaged, WrongMachine, NewAndBad, StorageDisabled,
        ControllerAbsent, ControllerNotProven, Disabled, Uncritical,
        StorageOff, .. ClassFilters.Kinds,
        SignedStartFiles.DriverAltered, SignedStartFiles.DriverUnlisted, SignedStartFiles.CatalogGone
    ];

    public LinkReport Check(Machine machine)
    {
        var (windows, why) = StartedWindows.Of(machine);
        if (windows is null) return LinkReport.Unreached(why);
        if (machine.SystemHive is not { ControlSet: not null } hive) return LinkReport.Unreached("start-drivers.hive-first");
        var drivers = hive.Services().Where(service => service.IsDriver).ToList();
        var starting = drivers.Where(driver => driver.Effective is ServiceStart.Boot or ServiceStart.System).ToList();
        var findings = KeysGone(windows, drivers)
            .Concat(SwitchedOff(windows, drivers))
            .Concat(NoController(windows, drivers))
            .Concat(NotProven(windows, windows.InstallationIn(machine)?.Build, drivers))
            .Concat(ClassFilters.Of(windows, hive))
            .Concat(OfFiles(machine, windows, drivers, starting))
            .ToList();
        if (!findings.Exists(finding => finding.Kind.Severity == Severity.Error))
            findings.AddRange(SignedStartFiles.OfDrivers.Check(machine, windows, FilesOf(windows, starting)));
        var worst = findings.Find(finding => finding.Kind.Severity == Severity.Error);
        var sound = Remark.Of(
            "start-drivers.sound",
            Fact.BootDrivers.Is(starting.Count(driver => driver.Effective == ServiceStart.Boot)),
            Fact.SystemDrivers.Is(starting.Count(driver => driver.Effective == ServiceStart.System)),
            Fact.ControlSet.Is(hive.ControlSet));
        return new LinkReport(worst?.Seen ?? sound, findings);
    }

    /// <summary>Whether Windows may reach its disk through that driver only.</summary>
    internal static bool MayCarryDisk(string name) =>
        Controllers.Contains(name, StringComparer.OrdinalIgnoreCase) || OnTheWay.Contains(name, StringComparer.OrdinalIgnoreCase);

    /// <summary>Which controllers' drivers a control set has, and which of them are off.</summary>
    internal static IReadOnlyList<WindowsService> ControllersOff(IReadOnlyList<WindowsService> drivers)
    {
        var known = drivers.Where(driver => Controllers.Contains(driver.Name, StringComparer.OrdinalIgnoreCase)).ToList();
        return known.Exists(driver => driver.Effective == ServiceStart.Boot) || drivers.Any(IsVendorsController) ? [] : known;
    }

    /// <summary>
    /// A controller's driver that did not come with Windows: it starts with the boot, in the group of such drivers.
    /// </summary>
    private static bool IsVendorsController(WindowsService driver) =>
        driver.Effective == ServiceStart.Boot
            && (driver.Group.Equals("SCSI Miniport", StringComparison.OrdinalIgnoreCase)
                || driver.Group.Equals("System Bus Extender RAID", StringComparison.OrdinalIgnoreCase))
            && !Controllers.Contains(driver.Name, StringComparer.OrdinalIgnoreCase);

    /// <summary>Drivers between controller and volume, or right behind it, that are off.</summary>
    internal static IReadOnlyList<WindowsService> OnTheWayOff(StartedWindows windows, IReadOnlyList<WindowsService> drivers) =>
        [.. drivers.Where(driver =>
            (Is(driver, OnTheWay) && driver.Effective is not (ServiceStart.Boot or null))
                || (!windows.IsNt5
                    && Is(driver, BehindTheDisk)
                    && driver.Effective is ServiceStart.Disabled or ServiceStart.OnDemand))];

    private static bool Is(WindowsService driver, string[] names) => Is(driver.Name, names);

    private static bool Is(string name, string[] names) => names.Contains(name, StringComparer.OrdinalIgnoreCase);

    private static IEnumerable<Finding> KeysGone(StartedWindows windows, IReadOnlyList<WindowsService> drivers)
    {
        string[] needed = !windows.IsNt5 ? Needed
            : [.. NeededByNt5, windows.Volume.Kind == FileSystemKind.Ntfs ? "ntfs" : "fastfat"];
        var there = drivers.Select(driver => driver.Name).ToHashSet(StringComparer.OrdinalIgnoreCase);

        // What every Windows has is missed only where most of it is there: some are cut down to what they need.
        if (!windows.IsNt5 && Usual.Count(there.Contains) * 4 >= Usual.Length * 3) needed = [.. needed.Union(Usual)];
        var gone = needed.Where(name => !there.Contains(name) && !(name == "pci" && VirtualBuses.Any(there.Contains))).ToList();
        if (gone.Count > 0) yield return KeyMissing.At(Fact.Names.Is(gone));
    }

    private static IEnumerable<Finding> SwitchedOff(StartedWindows windows, IReadOnlyList<WindowsService> drivers)
    {
        if (ControllersOff(drivers) is { Count: > 0 } off) yield return StorageDisabled.At(StartsOf(off));
        else if (drivers
            .Where(driver =>
                Common.Contains(driver.Name, StringComparer.OrdinalIgnoreCase)
                    && driver.Effective is not (ServiceStart.Boot or null))
            .ToList() is { Count: > 0 } common)
        {
            yield return StorageOff.At(StartsOf(common));
        }

        if (OnTheWayOff(windows, drivers) is { Count: > 0 } way) yield return Disabled.At(StartsOf(way));
    }

    /// <summary>
    /// A whole Windows whose drivers have none that reaches a disk: neither by its name or group, nor by what it imports. One
    /// that is cut down to what it needs may have any.
    /// </summary>
    private static IEnumerable<Finding> NoController(StartedWindows windows, IReadOnlyList<WindowsService> drivers)
    {
        if (windows.IsNt5 || Usual.Any(name => !drivers.Any(driver => Is(driver, [name])))) yield break;
        if (drivers.Any(driver => Is(driver, Controllers) || IsVendorsController(driver))) yield break;
        var starting = drivers.Where(driver => driver.Effective == ServiceStart.Boot);
        if (starting.Any(driver => DriverImports.Of(windows, driver).Any(name => Is(name, PortLibraries)))) yield break;
        yield return ControllerAbsent.At();
    }

    /// <summary>A driver that did not come with Windows is taken only for devices that its database has it for.</summary>
    private static IEnumerable<Finding> NotProven(StartedWindows windows, int? build, IReadOnlyList<WindowsService> drivers)
    {
        if (windows.IsNt5 || !DeviceDatabase.IsOf(build)) yield break;
        if (!DeviceDatabase.IsThere(windows.Files, windows.Folder)) yield break;
        var strangers = drivers.Where(IsVendorsController).ToList();
        var unknown = strangers
            .Where(driver => driver.FileIn(windows.Folder) is not { } path
                || DeviceDatabase.Has(windows.Files, windows.Folder, VolumeExtensions.NameOf(path)) == false)
            .Select(driver => driver.Name)
            .ToList();
        if (unknown.Count > 0) yield return ControllerNotProven.At(Fact.Names.Is(unknown), Fact.Build.Is(build!.Value));
    }

    private static KnownFact StartsOf(IEnumerable<WindowsService> drivers) => Fact.Drivers.Is([.. drivers.Select(StartOf)]);

    private static Remark StartOf(WindowsService driver) => driver.Effective is { } start
        ? Remark.Of("driver.starts", Fact.Driver.Is(driver.Name), Fact.Start.Is(start.ToString().ToLowerInvariant()))
        : Remark.Of("driver.no-start", Fact.Driver.Is(driver.Name));

    /// <summary>
    /// The files of the drivers that start with Windows, and of the libraries that those import which a start hangs on. Not how
    /// bad a driver says that its absence is decides that, but what it does: disks' own say that it does not matter.
    /// </summary>
    private static IEnumerable<Finding> OfFiles(
        Machine machine,
        StartedWindows windows,
        IReadOnlyList<WindowsService> drivers,
        IReadOnlyList<WindowsService> starting)
    {
        // The loader takes the file system's driver by itself, whatever its start type says.
        var fileSystem = drivers.Where(driver => driver.Name.Equals("ntfs", StringComparison.OrdinalIgnoreCase)
            && windows.Volume.Kind == FileSystemKind.Ntfs && !starting.Contains(driver));
        var all = starting.Concat(fileSystem).ToList();
        var seen = all.Select(driver => (Driver: driver, Finding: OfFile(machine, windows, driver))).ToList();
        var noController = seen.Where(one => IsController(one.Driver)).ToList() is { Count: > 0 } controllers
            && controllers.TrueForAll(one => one.Finding is not null);
        var told = new HashSet<FilePlace>();                    // several drivers name the same library
        foreach (var (driver, finding) in seen)
        {
            var isNeeded = IsNeeded(windows, driver) || (noController && IsController(driver));
            if (finding is null)
            {
                if (!isNeeded) continue;
                foreach (var import in DriverImports.Wrong(machine, windows, driver, FileKinds))
                {
                    if (told.Add(import.File!)) yield return import;
                }
            }
            else if (isNeeded) yield return finding.With(Fact.Driver.Is(driver.Name));
            else yield return Uncritical.At(finding.Seen.With(Fact.Driver.Is(driver.Name), Fact.MayFail.Is(true)));
        }
    }

    private static IEnumerable<string> FilesOf(StartedWindows windows, IReadOnlyList<WindowsService> starting) =>
        starting.Select(driver => driver.FileIn(windows.Folder)).OfType<string>();

    private static bool IsController(WindowsService driver) => driver.Effective == ServiceStart.Boot
        && (Is(driver, Controllers) || IsVendorsController(driver));

    /// <summary>Whether a start hangs on that driver: by what it does, or by what it says of itself.</summary>
    internal static bool IsNeeded(StartedWindows windows, WindowsService driver) => driver.IsCritical
        || Is(driver, OnTheWay)
        || (!windows.IsNt5 && (Is(driver, BehindTheDisk) || driver.Name.Equals("ntfs", StringComparison.OrdinalIgnoreCase)))
        || driver.Group.Equals(EarlyLaunch, StringComparison.OrdinalIgnoreCase);

    private static Finding? OfFile(Machine machine, StartedWindows windows, WindowsService driver)
    {
        if (driver.FileIn(windows.Folder) is not { } path) return null;
        var state = machine.Programs.Look(windows.Volume, windows.Files, path);
        if (FileKinds.FindingOf(state, FilePlace.Of(windows.Volume, path)) is not { } finding) return null;
        if (driver.IsCritical && machine.Memory?.History.Judgement is { LastGoodStart: not null } judgement
            && judgement.ChangeOf(driver.Name) is not null)
        {
            return NewAndBad.At(finding.Seen, finding.File);
        }

        return finding;
    }
}
