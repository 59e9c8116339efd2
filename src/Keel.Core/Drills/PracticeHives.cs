using System.Buffers.Binary;
using Keel.Core.Hives;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Drills;

/// <summary>The registry hives of a practice installation.</summary>
internal static class PracticeHives
{
    /// <summary>The revision of the build in force.</summary>
    internal const uint Revision = 1;

    /// <summary>The purser's security identifier.</summary>
    internal const string Person = "S-1-5-21-1041041041-1042042042-1043043043-1001";

    internal const uint HiveMinorVersion = 5;
    private const uint BootStart = 0, SystemStart = 1, OnDemand = 3, Normal = 1, Critical = 3;

    /// <summary>The drivers of the machine.</summary>
    internal static readonly PracticeDriver[] Drivers =
    [
        new("WdBoot", BootStart, "Early-Launch", Normal),
        new("acpi", BootStart, "Core", Critical),
        new("pci", BootStart, "Boot Bus Extender", Critical),
        new("partmgr", BootStart, "Boot Bus Extender", Critical),
        new("spaceport", BootStart, "Boot Bus Extender", Critical),
        new("volmgr", BootStart, "System Bus Extender", Critical),
        new("volmgrx", BootStart, "System Bus Extender", Critical),
        new("mountmgr", BootStart, "System Bus Extender", Critical),
        new("storahci", BootStart, "SCSI Miniport", Critical, "storport.sys"),
        new("stornvme", BootStart, "SCSI Miniport", Critical, "storport.sys"),
        new("EhStorClass", BootStart, "", Normal),
        new("disk", BootStart, "SCSI Class", Normal, "CLASSPNP.SYS"),
        new("volume", BootStart, "", Critical),
        new("volsnap", BootStart, "", Critical),
        new("fvevol", BootStart, "", Critical),
        new("fltmgr", BootStart, "FSFilter Infrastructure", Critical),
        new("CLFS", BootStart, "Filter", Critical),
        new("CNG", BootStart, "Cryptography", Critical),
        new("KSecDD", BootStart, "Base", Normal),
        new("ntfs", OnDemand, "Boot File System", Normal),
        new("kbdclass", OnDemand, "Keyboard Class", Normal),
        new("mouclass", OnDemand, "Pointer Class", Normal),
        new("null", SystemStart, "Base", Normal),
        new("beep", SystemStart, "Base", Normal)
    ];

    /// <summary>The same for NT 5.</summary>
    internal static readonly PracticeDriver[] Nt5Drivers =
    [
        new("acpi", BootStart, "Boot Bus Extender", Critical),
        new("pci", BootStart, "Boot Bus Extender", Critical),
        new("partmgr", BootStart, "System Bus Extender", Critical),
        new("ftdisk", BootStart, "System Bus Extender", Critical),
        new("atapi", BootStart, "SCSI Miniport", Critical),
        new("disk", BootStart, "SCSI Class", Critical),
        new("ntfs", BootStart, "File System", Critical),
        new("fastfat", BootStart, "File System", Critical),
        new("null", SystemStart, "Base", Normal),
        new("beep", SystemStart, "Base", Normal)
    ];

    /// <summary>Setup classes with their filters: disks, volumes, keyboards, mice.</summary>
    private static readonly (string Class, string List, string Driver)[] Filters =
    [
        ("{4d36e967-e325-11ce-bfc1-08002be10318}", "UpperFilters", "partmgr"),
        ("{4d36e967-e325-11ce-bfc1-08002be10318}", "LowerFilters", "EhStorClass"),
        ("{71a27cdd-812a-11d0-bec7-08002be2092f}", "UpperFilters", "volsnap"),
        ("{71a27cdd-812a-11d0-bec7-08002be2092f}", "LowerFilters", "fvevol"),
        ("{4d36e96b-e325-11ce-bfc1-08002be10318}", "UpperFilters", "kbdclass"),
        ("{4d36e96f-e325-11ce-bfc1-08002be10318}", "UpperFilters", "mouclass")
    ];

    private static readonly (string Listed, string File)[] HiveList =
    [
        (@"\REGISTRY\MACHINE\SYSTEM", "SYSTEM"),
        (@"\REGISTRY\MACHINE\SOFTWARE", "SOFTWARE"),
        (@"\REGISTRY\MACHINE\SECURITY", "SECURITY"),
        (@"\REGISTRY\MACHINE\SAM", "SAM"),
        (@"\REGISTRY\USER\.DEFAULT", "DEFAULT")
    ];

    /// <summary>The database of devices and drivers, with the packages that it has.</summary>
    /// <param name="made">When it was written.</param>
    /// <param name="packages">The names of their folders in the driver store.</param>
    public static byte[] DeviceDatabase(DateTimeOffset made, IEnumerable<string> packages)
    {
        var root = new HiveNode("drivers") { LastWritten = made.ToFileTime() };
        var list = root.ChildOrNew("DriverDatabase").ChildOrNew("DriverPackages");
        foreach (var package in packages) list.ChildOrNew(package);
        return HiveWriter.Write(root, HiveMinorVersion);
    }

    /// <param name="spec">What the practice disk is to be.</param>
    /// <param name="volumes">Those that get letters, from C: on.</param>
    public static byte[] System(PracticeSpec spec, IReadOnlyList<DiskVolume> volumes) => System(spec, volumes, Drivers);

    /// <param name="spec">What the practice disk is to be.</param>
    /// <param name="volumes">Those that get letters, from C: on.</param>
    /// <param name="drivers">The drivers that start with the system.</param>
    public static byte[] System(
        PracticeSpec spec,
        IReadOnlyList<DiskVolume> volumes,
        IReadOnlyList<PracticeDriver> drivers)
    {
        var root = new HiveNode("ROOT") { LastWritten = spec.Made.ToFileTime() };
        root
            .ChildOrNew("Select")
            .Set(HiveValue.OfNumber("Current", 1))
            .Set(HiveValue.OfNumber("Default", 1))
            .Set(HiveValue.OfNumber("Failed", 0))
            .Set(HiveValue.OfNumber("LastKnownGood", 1));
        var mounted = root.ChildOrNew("MountedDevices");
        var letter = 'C';
        foreach (var volume in volumes) mounted.Set(HiveValue.OfBinary($@"\DosDevices\{letter++}:", LetterTarget(volume)));
        var control = root.ChildOrNew("ControlSet001").ChildOrNew("Control");
        control.ChildOrNew("ComputerName").ChildOrNew("ComputerName").Set(HiveValue.OfText("ComputerName", spec.MachineName));
        control.ChildOrNew("Nls").ChildOrNew("CodePage").Set(HiveValue.OfText("OEMCP", "850"));
        control.ChildOrNew("Nls").ChildOrNew("Language").Set(HiveValue.OfText("InstallLanguage", "0409"));
        control.ChildOrNew("Session Manager").Set(HiveValue.OfTextList("BootExecute", [LogonSettings.UsualBootExecute]));
        WriteTimeZone(control.ChildOrNew("TimeZoneInformation"));
        var services = root.Child("ControlSet001")!.ChildOrNew("Services");
        foreach (var driver in drivers) WriteDriver(services.ChildOrNew(driver.Name), driver);
        WriteSession(root, control, drivers);
        return HiveWriter.Write(root, HiveMinorVersion);
    }

    private static void WriteDriver(HiveNode key, PracticeDriver driver)
    {
        key
            .Set(HiveValue.OfNumber("Start", driver.Start))
            .Set(HiveValue.OfNumber("Type", 1))
            .Set(HiveValue.OfNumber("ErrorControl", driver.ErrorControl));
        if (driver.Group.Length > 0) key.Set(HiveValue.OfText("Group", driver.Group));
        var path = HiveValue.OfText("", $@"System32\drivers\{driver.Name}.sys").Data;
        key.Set(new HiveValue("ImagePath", HiveValueType.ExpandableText, path));
    }

    /// <summary>What a Windows since Vista says of its session, its setup and its device classes.</summary>
    private static void WriteSession(HiveNode root, HiveNode control, IReadOnlyList<PracticeDriver> drivers)
    {
        if (drivers != Drivers) return;
        root.ChildOrNew("Setup")
            .Set(HiveValue.OfNumber("SystemSetupInProgress", 0))
            .Set(HiveValue.OfNumber("SetupType", 0))
            .Set(HiveValue.OfText("CmdLine", ""));
        root.ChildOrNew("Setup").ChildOrNew("Status").ChildOrNew("ChildCompletion").Set(HiveValue.OfNumber("setup.exe", 3));
        var hives = control.ChildOrNew("hivelist");
        foreach (var (listed, file) in HiveList)
            hives.Set(HiveValue.OfText(listed, $@"\Device\HarddiskVolume2\Windows\System32\config\{file}"));
        foreach (var (id, list, driver) in Filters)
            control.ChildOrNew("Class").ChildOrNew(id).Set(HiveValue.OfTextList(list, [driver]));
        control.ChildOrNew("Session Manager").ChildOrNew("KnownDLLs")
            .Set(HiveValue.OfText("kernel32", "kernel32.dll"))
            .Set(HiveValue.OfText("rpcrt4", "rpcrt4.dll"));
    }

    public static byte[] Software(PracticeSpec spec)
    {
        var root = new HiveNode("ROOT") { LastWritten = spec.Made.ToFileTime() };
        root.ChildOrNew("Microsoft").ChildOrNew("Windows NT").ChildOrNew("CurrentVersion")
            .Set(HiveValue.OfText("ProductName", spec.Product))
                .Set(HiveValue.OfText("CurrentBuildNumber", $"{spec.Build}"))
                .Set(HiveValue.OfText("CurrentBuild", $"{spec.Build}"))
                .Set(HiveValue.OfText("SystemRoot", @"C:\Windows"))
            .Set(HiveValue.OfNumber("UBR", Revision))
            .Set(HiveValue.OfText("EditionID", "Professional"))
                .Set(HiveValue.OfText("DisplayVersion", "22H2"))
                .Set(HiveValue.OfText("RegisteredOrganization", "Brackwater Ferries"));
        WriteLogon(root, @"C:\Windows");
        var profiles = root.Child("Microsoft")!.Child("Windows NT")!.Child("CurrentVersion")!.ChildOrNew("ProfileList");
        profiles.ChildOrNew("S-1-5-18").Set(HiveValue.OfText("ProfileImagePath", @"C:\Windows\system32\config\systemprofile"));
        profiles.ChildOrNew(Person).Set(HiveValue.OfText("ProfileImagePath", @"C:\Users\purser"));
        return HiveWriter.Write(root, HiveMinorVersion);
    }

    /// <summary>What is run between kernel and desktop, and what starts by itself.</summary>
    internal static void WriteLogon(HiveNode root, string folder)
    {
        root.ChildOrNew("Microsoft").ChildOrNew("Windows NT").ChildOrNew("CurrentVersion").ChildOrNew("Winlogon")
            .Set(HiveValue.OfText("Shell", LogonSettings.UsualShell))
            .Set(HiveValue.OfText("Userinit", $@"{folder}\system32\userinit.exe,"));
        root.ChildOrNew("Microsoft").ChildOrNew("Windows").ChildOrNew("CurrentVersion").ChildOrNew("Run")
            .Set(HiveValue.OfText("Tide clock", $@"""{folder}\tideclock.exe"" /quiet"))
            .Set(HiveValue.OfText("Ticket printer", $@"{folder[..2]}\Program Files\Brackwater\printer.exe -tray"));
    }

    /// <summary>The hive of a user, with a program that starts for nobody else.</summary>
    public static byte[] User(PracticeSpec spec, string folder)
    {
        var root = new HiveNode("ROOT") { LastWritten = spec.Made.ToFileTime() };
        root.ChildOrNew("Software").ChildOrNew("Microsoft").ChildOrNew("Windows").ChildOrNew("CurrentVersion").ChildOrNew("Run")
            .Set(HiveValue.OfText("Deck radio", $@"{folder}\tideclock.exe /radio"));
        return HiveWriter.Write(root, HiveMinorVersion);
    }

    public static byte[] Plain(PracticeSpec spec, string name) =>
        HiveWriter.Write(new HiveNode(name) { LastWritten = spec.Made.ToFileTime() }, HiveMinorVersion);

    /// <summary>Brackwater's clocks are an hour ahead, and two from the last Sunday of March to that of October.</summary>
    private static void WriteTimeZone(HiveNode key)
    {
        const uint oneHourAhead = unchecked((uint)-60);
        static byte[] LastSundayOf(byte month, byte hour) => [0, 0, month, 0, 5, 0, hour, 0, 0, 0, 0, 0, 0, 0, 0, 0];
        key
            .Set(HiveValue.OfText("TimeZoneKeyName", "W. Europe Standard Time"))
            .Set(HiveValue.OfNumber("Bias", oneHourAhead))
            .Set(HiveValue.OfNumber("StandardBias", 0))
            .Set(HiveValue.OfNumber("DaylightBias", oneHourAhead))
            .Set(HiveValue.OfBinary("StandardStart", LastSundayOf(10, 3)))
            .Set(HiveValue.OfBinary("DaylightStart", LastSundayOf(3, 2)));
    }

    internal static byte[] LetterTarget(DiskVolume volume)
    {
        if (volume.Partition.Id != default) return [.. "DMIO:ID:"u8, .. volume.Partition.Id.ToByteArray()];
        var target = new byte[12];
        BinaryPrimitives.WriteUInt32LittleEndian(target, volume.DiskIdentity.Signature);
        BinaryPrimitives.WriteInt64LittleEndian(target.AsSpan(4), volume.Partition.Range.Start);
        return target;
    }
}
