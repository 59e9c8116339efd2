namespace Keel.Core.Store;

/// <summary>In which entries a setting has its meaning.</summary>
public enum SettingScope
{
    Any,
    Manager,
    Windows,
    Resume,
    DeviceOptions
}
