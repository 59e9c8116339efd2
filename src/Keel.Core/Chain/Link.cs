namespace Keel.Core.Chain;

/// <summary>The steps of a boot chain, in the order in which a machine takes them.</summary>
public enum Link
{
    FirmwareEntry,
    DiskLayout,
    MbrCode,
    ActiveMark,
    BootSector,
    SystemVolume,
    ManagerFile,
    FallbackFile,
    Store,
    ManagerEntry,
    WindowsEntry,
    LoaderFile,
    SystemHive,
    KernelFiles,
    StartDrivers
}
