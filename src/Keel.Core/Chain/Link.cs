namespace Keel.Core.Chain;

/// <summary>The steps of a boot chain, in the order in which a machine takes them.</summary>
public enum Link
{
    /// <summary>The firmware's entry.</summary>
    FirmwareEntry,

    /// <summary>The partition table.</summary>
    DiskLayout,

    /// <summary>The code in the master boot record.</summary>
    MbrCode,

    /// <summary>The mark of the active partition.</summary>
    ActiveMark,

    /// <summary>The active volume's boot sector.</summary>
    BootSector,

    /// <summary>The EFI system partition.</summary>
    SystemVolume,

    /// <summary>The boot manager's file.</summary>
    ManagerFile,

    /// <summary>The file that firmware takes where it has no entry.</summary>
    FallbackFile,

    /// <summary>The boot configuration.</summary>
    Store,

    /// <summary>The boot manager's own entry.</summary>
    ManagerEntry,

    /// <summary>The entry of the Windows that starts.</summary>
    WindowsEntry,

    /// <summary>
    /// The volume of the Windows that starts: its boot sector, its file system, whether it was properly closed.
    /// </summary>
    WindowsVolume,

    /// <summary>The loader's file.</summary>
    LoaderFile,

    /// <summary>The program by which the NT 5 loader looks at the hardware.</summary>
    DetectFile,

    /// <summary>The list of systems of the NT 5 loader, boot.ini.</summary>
    BootList,

    /// <summary>The line of that list that is started.</summary>
    BootLine,

    SystemHive,

    /// <summary>The files that the loader takes with the kernel.</summary>
    KernelFiles,

    /// <summary>The drivers that start first.</summary>
    StartDrivers,

    /// <summary>What comes between the kernel and the desktop.</summary>
    Session
}
