namespace Keel.Core.Store;

/// <summary>Where the boot files lie, for one kind of firmware.</summary>
/// <param name="ManagerPath">The boot manager on the system volume.</param>
/// <param name="CopiesFolder">The folder below <c>\Windows\Boot</c> from which they can be recreated.</param>
/// <param name="ManagerProgramFile">What the manager entry says about it; BIOS stores say nothing.</param>
public sealed record BootFiles(
    string ManagerPath,
    string? ManagerProgramFile,
    string StoreFolder,
    string MemoryTest,
    string LoaderName,
    string ResumeLoaderName,
    string CopiesFolder)
{
    public static readonly BootFiles Bios = new(
        @"\bootmgr",
        null,
        @"\Boot",
        @"\Boot\memtest.exe",
        "winload.exe",
        "winresume.exe",
        "PCAT");

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

    public string StorePath => $@"{StoreFolder}\BCD";
}
