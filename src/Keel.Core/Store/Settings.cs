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
            "what failures lead to repair",
            "show-all-failures",
            "ignore-all",
            "ignore-shutdown-failures",
            "ignore-start-failures"),
        new(0x250000f0, SettingScope.Windows, "hypervisor", "start the hypervisor", "off", "automatic"),
        new(0x21000001, SettingScope.Resume, "hibernation-volume", "where the hibernated memory lies"),
        new(0x22000002, SettingScope.Resume, "hibernation-file", "the path of that file"),
        new(0x21000005, SettingScope.Resume, "resumes-volume", "the volume of the system that is resumed"),
        new(0x31000003, SettingScope.DeviceOptions, "ramdisk-volume", "where the ramdisk's image options lie"),
        new(0x32000004, SettingScope.DeviceOptions, "ramdisk-file", "the path of them")
    ];

    /// <summary>The scope whose settings an entry of a type can have besides those of any.</summary>
    public static SettingScope ScopeOf(EntryType type) =>
        type == EntryType.Manager || type == EntryType.FirmwareList ? SettingScope.Manager
        : type == EntryType.Windows || type == EntryType.WindowsSettings ? SettingScope.Windows
        : type == EntryType.Resume || type == EntryType.ResumeSettings ? SettingScope.Resume
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
