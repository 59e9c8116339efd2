namespace Keel.Core.Store;

/// <summary>The type word of an entry: what it starts, or what it is for.</summary>
public readonly record struct EntryType(uint Value)
{
    /// <summary>The firmware's own list.</summary>
    public static readonly EntryType FirmwareList = new(0x10100001);

    /// <summary>The boot manager.</summary>
    public static readonly EntryType Manager = new(0x10100002);

    /// <summary>A Windows to start.</summary>
    public static readonly EntryType Windows = new(0x10200003);

    /// <summary>A Windows to resume from hibernation.</summary>
    public static readonly EntryType Resume = new(0x10200004);

    public static readonly EntryType MemoryTest = new(0x10200005);

    public static readonly EntryType Nt5Loader = new(0x10300006);

    /// <summary>Another system, started by a boot sector in a file.</summary>
    public static readonly EntryType BootSectorFile = new(0x10400008);

    public static readonly EntryType EverySettings = new(0x20100000);

    /// <summary>Settings for entries that start Windows.</summary>
    public static readonly EntryType WindowsSettings = new(0x20200003);

    /// <summary>Settings for entries that resume Windows.</summary>
    public static readonly EntryType ResumeSettings = new(0x20200004);

    public static readonly EntryType DeviceOptions = new(0x30000000);

    /// <summary>Whether it is something that can be started.</summary>
    public bool IsApplication => Value >> 28 == 1;

    /// <summary>Whether it is a set of settings to inherit.</summary>
    public bool IsSettings => Value >> 28 == 2;

    /// <summary>Whether it is a set of options of a device.</summary>
    public bool IsDeviceOptions => Value >> 28 == 3;

    /// <summary>The words for it.</summary>
    public string Name => Value switch
    {
        0x10100001 => "firmware list",
        0x10100002 => "boot manager",
        0x10200003 => "Windows",
        0x10200004 => "resume from hibernation",
        0x10200005 => "memory test",
        0x10300006 => "NT 5 loader",
        0x10400008 => "boot-sector file",
        _ when IsSettings => "settings",
        _ when IsDeviceOptions => "device options",
        _ => $"type {Value:x8}"
    };
}
