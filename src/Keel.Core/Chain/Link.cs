namespace Keel.Core.Chain;

/// <summary>The steps of a boot chain, in the order in which a machine takes them.</summary>
public enum Link
{
    DiskLayout,
    MbrCode,
    ActiveMark,
    BootSector,
    ManagerFile,
    Store,
    ManagerEntry,
    WindowsEntry,
    LoaderFile
}
