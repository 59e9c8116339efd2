namespace Keel.Core.Store;

/// <summary>The settings that keel knows by name. Others are shown by their number, and kept as they are.</summary>
public static class Settings
{
    private const string UnknownPrefix = "element-";

    /// <summary>Every setting that has a name.</summary>
    public static readonly IReadOnlyList<Setting> All =
    [
        new(0x11000001, SettingScope.Any, "program-volume", "where the program that the entry starts lies"),
        new(0x12000002, SettingScope.Any, "program-file", "the path of that program"),
        new(0x12000004, SettingScope.Any, "title", "what the menu shows"),
        new(0x12000005, SettingScope.Any, "language", "the language of the start, such as en-US"),
        new(0x14000006, SettingScope.Any, "settings-from", "settings entries that it inherits"),
        new(0x15000007, SettingScope.Any, "memory-ceiling", "the highest physical address that is used, in bytes"),
        new(0x14000008, SettingScope.Any, "rescue-entries", "what is tried when this one fails"),
        new(0x16000009, SettingScope.Any, "rescue-by-itself", "start those without asking"),
        new(0x1700000a, SettingScope.Any, "bad-memory-pages", "pages of memory that are not used"),
        new(0x1600000b, SettingScope.Any, "use-bad-memory", "use them all the same"),
        new(0x16000010, SettingScope.Any, "early-debugging", "let a debugger in from the first step"),
        new(0x16000020, SettingScope.Any, "serial-management", "management over the serial port"),
        new(0x12000030, SettingScope.Any, "kernel-switches", "text handed to the kernel"),
        new(0x16000040, SettingScope.Any, "startup-choices", "stop at the list of start-up modes"),
        new(0x16000041, SettingScope.Any, "edit-switches", "let the user edit the switches at start"),
        new(0x16000048, SettingScope.Any, "skip-image-checks", "start programs whose signature fails"),
        new(0x16000049, SettingScope.Any, "accept-test-signatures", "start programs with test signatures"),
        new(0x15000052, SettingScope.Any, "screen-size", "the resolution while starting"),
        new(0x16000053, SettingScope.Any, "restart-after-failure", "restart when the start fails"),
        new(0x1500000c, SettingScope.Any, "lowest-mib", "how the first MiB of memory is used", "not", "all", "for-loaders"),
        new(0x1500000d, SettingScope.Any, "moved-memory", "memory that is moved, on certain processors"),
        new(0x1500000e, SettingScope.Any, "memory-floor", "the lowest physical address that is used while starting, in bytes"),
        new(
            0x15000011,
            SettingScope.Any,
            "debug-link",
            "how the debugger is reached",
            "serial",
            "firewire",
            "usb",
            "network",
            "local"),
        new(0x15000012, SettingScope.Any, "debug-serial-address", "the address of the serial port for debugging"),
        new(0x15000013, SettingScope.Any, "debug-serial-port", "the number of the serial port for debugging"),
        new(0x15000014, SettingScope.Any, "debug-serial-speed", "the speed of that port, in bits a second"),
        new(0x15000015, SettingScope.Any, "debug-firewire-channel", "the channel for debugging over FireWire"),
        new(0x12000016, SettingScope.Any, "debug-usb-name", "the name that the debugger is reached by over USB"),
        new(0x16000017, SettingScope.Any, "debug-kernel-only", "the debugger ignores failures of programs"),
        new(0x15000018, SettingScope.Any, "debug-begins", "when debugging begins", "at-once", "on-failure", "never"),
        new(0x12000019, SettingScope.Any, "debug-device", "where the debugging device is on its bus"),
        new(0x1500001a, SettingScope.Any, "debug-network-host", "the address of the debugging computer, as a number"),
        new(0x1500001b, SettingScope.Any, "debug-network-port", "the port on that computer"),
        new(0x1600001c, SettingScope.Any, "debug-network-dhcp", "ask the network for an address for debugging"),
        new(0x1200001d, SettingScope.Any, "debug-network-key", "the key that debugging over the network is encrypted with"),
        new(0x15000022, SettingScope.Any, "serial-management-port", "the number of the serial port for management"),
        new(0x15000023, SettingScope.Any, "serial-management-speed", "the speed of that port, in bits a second"),
        new(0x16000046, SettingScope.Any, "text-mode-start", "no graphics while starting"),
        new(
            0x15000047,
            SettingScope.Any,
            "pci-config-access",
            "how the loader reaches PCI configuration",
            "usual",
            "without-memory-map"),
        new(0x16000050, SettingScope.Any, "more-console-keys", "keys of the extended console are read"),
        new(0x16000054, SettingScope.Any, "largest-screen-mode", "the largest resolution while starting"),
        new(0x24000001, SettingScope.Manager, "menu-order", "the entries in the menu, in order"),
        new(0x24000002, SettingScope.Manager, "once-only", "the entries for the next start alone"),
        new(0x23000003, SettingScope.Manager, "preferred", "the entry started when nobody chooses"),
        new(0x25000004, SettingScope.Manager, "menu-seconds", "how long the menu waits"),
        new(0x26000005, SettingScope.Manager, "resume-pending", "a hibernated system waits to be resumed"),
        new(0x23000006, SettingScope.Manager, "resume-entry", "the entry that resumes it"),
        new(0x24000010, SettingScope.Manager, "menu-tools", "entries below the menu"),
        new(0x26000020, SettingScope.Manager, "menu-always", "show the menu at every start"),
        new(0x21000022, SettingScope.Manager, "store-volume", "where the store lies, if not beside the manager"),
        new(0x22000023, SettingScope.Manager, "store-file", "the path of that store"),
        new(0x26000021, SettingScope.Manager, "hide-errors", "show no error screen"),
        new(0x27000030, SettingScope.Manager, "key-actions", "keys of the firmware, and what they start"),
        new(0x26000031, SettingScope.Manager, "keep-once-only", "the entries for the next start stay for later ones"),
        new(0x21000001, SettingScope.Windows, "windows-volume", "the volume of the Windows installation"),
        new(0x22000002, SettingScope.Windows, "windows-folder", @"its folder, such as \Windows"),
        new(0x23000003, SettingScope.Windows, "resume-entry", "the entry that resumes it from hibernation"),
        new(0x26000010, SettingScope.Windows, "pick-hardware-layer", "let the loader pick the hardware layer"),
        new(0x22000011, SettingScope.Windows, "kernel-file", "another kernel"),
        new(0x22000012, SettingScope.Windows, "hardware-layer-file", "another hardware layer"),
        new(
            0x25000020,
            SettingScope.Windows,
            "execute-protection",
            "memory that holds data is not executed",
            "opt-in",
            "opt-out",
            "always-off",
            "always-on"),
        new(0x25000021, SettingScope.Windows, "long-addresses", "32-bit systems: more than 4 GiB", "default", "on", "off"),
        new(0x26000022, SettingScope.Windows, "setup-system", "a preinstallation or recovery system"),
        new(0x26000024, SettingScope.Windows, "stay-on-crash", "do not restart after a stop error"),
        new(0x26000025, SettingScope.Windows, "last-good-configuration", "start with the last configuration that worked"),
        new(0x26000040, SettingScope.Windows, "plain-video", "the plain video driver only"),
        new(
            0x25000080,
            SettingScope.Windows,
            "safe-start",
            "only what is needed is started",
            "minimal",
            "network",
            "directory-repair"),
        new(0x26000081, SettingScope.Windows, "safe-start-prompt", "a command prompt instead of the desktop"),
        new(0x26000090, SettingScope.Windows, "start-log", "write down what is loaded"),
        new(0x26000091, SettingScope.Windows, "name-drivers", "show drivers as they load"),
        new(0x250000c2, SettingScope.Windows, "menu-look", "the look of the menu", "text", "graphical"),
        new(
            0x250000e0,
            SettingScope.Windows,
            "after-failed-start",
            "which failures lead to repair",
            "show-all-failures",
            "ignore-all",
            "ignore-shutdown-failures",
            "ignore-start-failures"),
        new(0x250000f0, SettingScope.Windows, "hypervisor", "start the hypervisor", "off", "automatic"),
        new(0x22000013, SettingScope.Windows, "debug-driver-file", "another driver for debugging"),
        new(0x26000030, SettingScope.Windows, "memory-above-4-gib", "no memory below 4 GiB for drivers"),
        new(0x25000031, SettingScope.Windows, "withhold-memory", "memory that is not used, in MiB"),
        new(0x25000032, SettingScope.Windows, "program-addresses", "addresses of a program on 32-bit systems, in MiB"),
        new(0x25000033, SettingScope.Windows, "measuring-memory", "memory set aside for measuring, in MiB"),
        new(0x26000041, SettingScope.Windows, "quiet-start", "no picture while starting"),
        new(0x26000042, SettingScope.Windows, "without-vesa-bios", "no modes of the VESA BIOS"),
        new(0x25000050, SettingScope.Windows, "interrupt-clusters", "the largest cluster of interrupt controllers"),
        new(0x26000051, SettingScope.Windows, "physical-interrupts", "interrupts go to physical processors"),
        new(0x25000052, SettingScope.Windows, "interrupt-cluster-limit", "the largest cluster that interrupts go to"),
        new(0x26000054, SettingScope.Windows, "old-interrupt-mode", "the interrupt controllers in their older mode"),
        new(
            0x25000055,
            SettingScope.Windows,
            "wide-interrupt-mode",
            "the interrupt controllers in their wide mode",
            "usual",
            "off",
            "on"),
        new(0x26000060, SettingScope.Windows, "one-processor", "only the processor that started"),
        new(0x25000061, SettingScope.Windows, "processor-count", "how many processors are used"),
        new(0x26000062, SettingScope.Windows, "all-processors", "as many processors as the system can use"),
        new(0x26000064, SettingScope.Windows, "most-processor-groups", "spread processors over as many groups as there can be"),
        new(0x26000065, SettingScope.Windows, "test-processor-groups", "drivers see more than one group of processors"),
        new(0x25000066, SettingScope.Windows, "largest-processor-group", "the largest group of processors"),
        new(0x26000070, SettingScope.Windows, "pci-as-found", "PCI as the firmware set it up"),
        new(0x25000071, SettingScope.Windows, "message-interrupts", "interrupts as messages", "usual", "off"),
        new(0x260000a0, SettingScope.Windows, "kernel-debugging", "let a debugger in once the kernel runs"),
        new(0x260000a1, SettingScope.Windows, "debug-break-early", "stop for the debugger before the kernel goes on"),
        new(0x260000a2, SettingScope.Windows, "board-clock", "the clock of the board instead of that of the processor"),
        new(0x260000a4, SettingScope.Windows, "board-tick", "the tick of the board"),
        new(0x260000a5, SettingScope.Windows, "steady-tick", "the clock ticks without pauses"),
        new(
            0x250000a6,
            SettingScope.Windows,
            "clock-agreement",
            "how the clocks of processors are brought to agree",
            "usual",
            "older",
            "thorough"),
        new(
            0x260000b0,
            SettingScope.Windows,
            "serial-management-of-windows",
            "management over the serial port, once Windows runs"),
        new(
            0x250000c1,
            SettingScope.Windows,
            "failed-driver",
            "what happens where a driver of the start is bad",
            "stop",
            "go-on"),
        new(0x260000c3, SettingScope.Windows, "startup-choices-once", "stop at the list of start-up modes, the next time only"),
        new(0x260000e1, SettingScope.Windows, "no-early-virus-scan", "no early look at drivers by a virus scanner"),
        new(0x220000f1, SettingScope.Windows, "hypervisor-file", "another hypervisor"),
        new(0x260000f2, SettingScope.Windows, "hypervisor-debugging", "let a debugger into the hypervisor"),
        new(
            0x250000f3,
            SettingScope.Windows,
            "hypervisor-debug-link",
            "how that debugger is reached",
            "serial",
            "firewire",
            "none",
            "network"),
        new(0x250000f4, SettingScope.Windows, "hypervisor-debug-port", "the number of its serial port"),
        new(0x250000f5, SettingScope.Windows, "hypervisor-debug-speed", "the speed of that port, in bits a second"),
        new(0x21000001, SettingScope.Resume, "hibernation-volume", "where the hibernated memory lies"),
        new(0x22000002, SettingScope.Resume, "hibernation-file", "the path of that file"),
        new(0x21000005, SettingScope.Resume, "resumes-volume", "the volume of the system that is resumed"),
        new(0x25000001, SettingScope.MemoryTest, "test-passes", "how often the memory is tested"),
        new(0x25000002, SettingScope.MemoryTest, "test-depth", "how thoroughly", "basic", "extended"),
        new(0x25000003, SettingScope.MemoryTest, "test-failures", "how many failures end the test"),
        new(0x35000001, SettingScope.DeviceOptions, "ramdisk-start", "where the image begins in its file, in bytes"),
        new(0x35000002, SettingScope.DeviceOptions, "ramdisk-network-port", "the port for loading over the network"),
        new(0x35000005, SettingScope.DeviceOptions, "ramdisk-bytes", "the length of the image, in bytes"),
        new(0x36000006, SettingScope.DeviceOptions, "ramdisk-as-cd", "show the ramdisk as a CD"),
        new(0x35000007, SettingScope.DeviceOptions, "network-block-bytes", "the size of a block while loading over the network"),
        new(0x35000008, SettingScope.DeviceOptions, "network-window", "how many blocks are on the way at once"),
        new(0x36000009, SettingScope.DeviceOptions, "network-to-many", "load together with others (multicast)"),
        new(0x3600000a, SettingScope.DeviceOptions, "network-alone-on-failure", "load alone where that fails"),
        new(0x3600000b, SettingScope.DeviceOptions, "network-window-grows", "let the window grow and shrink"),
        new(0x31000003, SettingScope.DeviceOptions, "ramdisk-volume", "where the ramdisk's image options lie"),
        new(0x32000004, SettingScope.DeviceOptions, "ramdisk-file", "the path of them")
    ];

    /// <summary>The scope whose settings an entry of a type can have besides those of any.</summary>
    public static SettingScope ScopeOf(EntryType type) =>
        type == EntryType.Manager || type == EntryType.FirmwareList ? SettingScope.Manager
        : type == EntryType.Windows || type == EntryType.WindowsSettings ? SettingScope.Windows
        : type == EntryType.Resume || type == EntryType.ResumeSettings ? SettingScope.Resume
        : type == EntryType.MemoryTest ? SettingScope.MemoryTest
        : type.IsDeviceOptions ? SettingScope.DeviceOptions
        : SettingScope.Any;

    /// <summary>The name of an element in an entry of a type; "element-…" for one that keel does not know.</summary>
    public static string NameOf(uint element, EntryType type) =>
        Known(element, type)?.Name ?? UnknownPrefix + Keel.Core.Store.Element.KeyName(element);

    /// <summary>The setting of an element in an entry of that type; null where it is not known.</summary>
    public static Setting? Known(uint element, EntryType type) =>
        All.FirstOrDefault(setting =>
            setting.Element == element && (setting.Scope == SettingScope.Any || setting.Scope == ScopeOf(type)));

    /// <summary>The setting of that name in an entry of a type; null where there is none.</summary>
    public static Setting? Named(string name, EntryType type)
    {
        var known = All.FirstOrDefault(setting =>
            setting.Name.Equals(name, StringComparison.OrdinalIgnoreCase)
                && (setting.Scope == SettingScope.Any || setting.Scope == ScopeOf(type)));
        if (known is not null) return known;
        return name.StartsWith(UnknownPrefix, StringComparison.OrdinalIgnoreCase)
            && uint.TryParse(
                name[UnknownPrefix.Length..],
                System.Globalization.NumberStyles.HexNumber,
                provider: null,
                out var element)
            ? new Setting(element, SettingScope.Any, name, "")
            : null;
    }

    /// <summary>The names nearest to a mistyped one, the nearest first.</summary>
    public static IReadOnlyList<string> Nearest(string name, EntryType type) =>
    [
        .. All.Where(setting => setting.Scope == SettingScope.Any || setting.Scope == ScopeOf(type))
            .Select(setting => (setting.Name, Distance: Distance(name.ToLowerInvariant(), setting.Name)))
            .OrderBy(near => near.Distance)
            .Take(3)
            .Select(near => near.Name)
    ];

    /// <summary>Letters to be changed, added or removed; less where one begins with or holds the other.</summary>
    private static int Distance(string typed, string name)
    {
        if (typed.Length > 2 && name.Contains(typed, StringComparison.Ordinal)) return 1;
        var row = Enumerable.Range(0, name.Length + 1).ToArray();
        for (var i = 1; i <= typed.Length; i++)
        {
            var diagonal = row[0];
            row[0] = i;
            for (var j = 1; j <= name.Length; j++)
            {
                var above = row[j];
                row[j] = Math.Min(Math.Min(row[j] + 1, row[j - 1] + 1), diagonal + (typed[i - 1] == name[j - 1] ? 0 : 1));
                diagonal = above;
            }
        }

        return row[name.Length];
    }
}
