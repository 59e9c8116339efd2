namespace Keel.Core.Chain;

/// <summary>What links are called.</summary>
public static class Links
{
    /// <summary>The id, as in "boot-sector".</summary>
    public static string Id(this Link link) => link switch
    {
        Link.FirmwareEntry => "firmware-entry",
        Link.DiskLayout => "disk-layout",
        Link.MbrCode => "mbr-code",
        Link.ActiveMark => "active-mark",
        Link.BootSector => "boot-sector",
        Link.SystemVolume => "system-volume",
        Link.ManagerFile => "manager-file",
        Link.FallbackFile => "fallback-file",
        Link.Store => "store",
        Link.ManagerEntry => "manager-entry",
        Link.WindowsEntry => "windows-entry",
        Link.LoaderFile => "loader-file",
        Link.SystemHive => "system-hive",
        Link.KernelFiles => "kernel-files",
        Link.StartDrivers => "start-drivers",
        _ => throw new ArgumentOutOfRangeException(nameof(link))
    };
}
