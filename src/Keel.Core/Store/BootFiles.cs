namespace Keel.Core.Store;

/// <summary>Where the boot files lie, for one kind of firmware.</summary>
/// <param name="ManagerPath">The boot manager on the system volume.</param>
/// <param name="ManagerProgramFile">What the manager entry says about it; BIOS stores say nothing.</param>
/// <param name="StoreFolder">The folder of the boot configuration.</param>
/// <param name="MemoryTest">The path of the memory test.</param>
/// <param name="LoaderName">The name of the loader in System32.</param>
/// <param name="ResumeLoaderName">The name of the loader for resuming in System32.</param>
/// <param name="CopiesFolder">The folder below <c>\Windows\Boot</c> from which they can be recreated.</param>
public sealed record BootFiles(
    string ManagerPath,
    string? ManagerProgramFile,
    string StoreFolder,
    string MemoryTest,
    string LoaderName,
    string ResumeLoaderName,
    string CopiesFolder)
{
    /// <summary>The files of a BIOS machine, on its active volume.</summary>
    public static readonly BootFiles Bios = new(
        @"\bootmgr",
        null,
        @"\Boot",
        @"\Boot\memtest.exe",
        "winload.exe",
        "winresume.exe",
        "PCAT");

    /// <summary>The files of a UEFI machine, on its EFI system partition.</summary>
    public static readonly BootFiles Uefi = new(
        @"\EFI\Microsoft\Boot\bootmgfw.efi",
        @"\EFI\Microsoft\Boot\bootmgfw.efi",
        @"\EFI\Microsoft\Boot",
        @"\EFI\Microsoft\Boot\memtest.efi",
        "winload.efi",
        "winresume.efi",
        "EFI");

    /// <summary>Whether UEFI firmware starts the manager itself, out of a FAT file system.</summary>
    public bool IsUefi => ManagerProgramFile is not null;

    /// <summary>The path of the boot configuration.</summary>
    public string StorePath => $@"{StoreFolder}\BCD";
}
