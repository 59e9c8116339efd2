using System.Buffers.Binary;
using Keel.Core.Hives;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Drills;

/// <summary>The registry hives of a practice installation.</summary>
internal static class PracticeHives
{
    internal const uint HiveMinorVersion = 5;
    private const uint BootStart = 0, SystemStart = 1;

    /// <summary>The drivers that start with the system: name, start, group.</summary>
    internal static readonly (string Name, uint Start, string Group)[] Drivers =
    [
        ("acpi", BootStart, "Core"), ("pci", BootStart, "Boot Bus Extender"), ("partmgr", BootStart, "Boot Bus Extender"),
        ("volmgr", BootStart, "System Bus Extender"),
        ("storahci", BootStart, "SCSI Miniport"),
        ("stornvme", BootStart, "SCSI Miniport"),
        ("disk", BootStart, "SCSI Class"),
        ("fltmgr", BootStart, "FSFilter Infrastructure"),
        ("ntfs", BootStart, "Boot File System"),
        ("null", SystemStart, "Base"), ("beep", SystemStart, "Base")
    ];

    /// <summary>The same for NT 5.</summary>
    internal static readonly (string Name, uint Start, string Group)[] Nt5Drivers =
    [
        ("acpi", BootStart, "Boot Bus Extender"), ("pci", BootStart, "Boot Bus Extender"),
        ("partmgr", BootStart, "System Bus Extender"), ("ftdisk", BootStart, "System Bus Extender"),
        ("atapi", BootStart, "SCSI Miniport"), ("disk", BootStart, "SCSI Class"), ("ntfs", BootStart, "File System"),
        ("fastfat", BootStart, "File System"),
        ("null", SystemStart, "Base"), ("beep", SystemStart, "Base")
    ];

    /// <param name="spec">What the practice disk is to be.</param>
    /// <param name="volumes">Those that get letters, from C: on.</param>
    public static byte[] System(PracticeSpec spec, IReadOnlyList<DiskVolume> volumes) => System(spec, volumes, Drivers);

    /// <param name="spec">What the practice disk is to be.</param>
    /// <param name="volumes">Those that get letters, from C: on.</param>
    /// <param name="drivers">The drivers that start with the system.</param>
    public static byte[] System(
        PracticeSpec spec,
        IReadOnlyList<DiskVolume> volumes,
        IReadOnlyList<(string Name, uint Start, string Group)> drivers)
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
        foreach (var (name, start, group) in drivers)
        {
            services.ChildOrNew(name)
                .Set(HiveValue.OfNumber("Start", start))
                    .Set(HiveValue.OfNumber("Type", 1))
                    .Set(HiveValue.OfNumber("ErrorControl", start == BootStart ? 3u : 1u))
                .Set(HiveValue.OfText("Group", group))
                    .Set(
                        new HiveValue(
                            "ImagePath",
                            HiveValueType.ExpandableText,
                            HiveValue.OfText("", $@"System32\drivers\{name}.sys").Data));
        }

        return HiveWriter.Write(root, HiveMinorVersion);
    }

    public static byte[] Software(PracticeSpec spec)
    {
        var root = new HiveNode("ROOT") { LastWritten = spec.Made.ToFileTime() };
        root.ChildOrNew("Microsoft").ChildOrNew("Windows NT").ChildOrNew("CurrentVersion")
            .Set(HiveValue.OfText("ProductName", spec.Product))
                .Set(HiveValue.OfText("CurrentBuildNumber", $"{spec.Build}"))
                .Set(HiveValue.OfText("CurrentBuild", $"{spec.Build}"))
                .Set(HiveValue.OfText("SystemRoot", @"C:\Windows"))
            .Set(HiveValue.OfText("EditionID", "Professional"))
                .Set(HiveValue.OfText("DisplayVersion", "22H2"))
                .Set(HiveValue.OfText("RegisteredOrganization", "Brackwater Ferries"));
        WriteLogon(root, @"C:\Windows");
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

    private static byte[] LetterTarget(DiskVolume volume)
    {
        if (volume.Partition.Id != default) return [.. "DMIO:ID:"u8, .. volume.Partition.Id.ToByteArray()];
        var target = new byte[12];
        BinaryPrimitives.WriteUInt32LittleEndian(target, volume.DiskIdentity.Signature);
        BinaryPrimitives.WriteInt64LittleEndian(target.AsSpan(4), volume.Partition.Range.Start);
        return target;
    }
}
