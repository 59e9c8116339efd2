namespace Keel.Core.Store;

/// <summary>In which entries a setting has its meaning.</summary>
public enum SettingScope
{
    /// <summary>Every entry.</summary>
    Any,

    /// <summary>The boot manager's entry.</summary>
    Manager,

    /// <summary>Entries that start Windows.</summary>
    Windows,

    /// <summary>Entries that resume Windows.</summary>
    Resume,

    MemoryTest,

    DeviceOptions
}
