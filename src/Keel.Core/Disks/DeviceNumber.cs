namespace Keel.Core.Disks;

/// <summary>The number of a device, by which the kernel knows it whatever its path.</summary>
public readonly record struct DeviceNumber(uint Major, uint Minor)
{
    /// <summary>"8:1": as sysfs and mountinfo write it.</summary>
    public override string ToString() => $"{Major}:{Minor}";
}
