namespace Keel.Core.Store;

/// <summary>Where the boot files lie, for one kind of firmware.</summary>
/// <param name="ManagerPath">The boot manager on the system volume.</param>
/// <param name="ManagerProgramFile">What the manager entry says about it; BIOS stores say nothing.</param>
public sealed record BootFiles(
    string ManagerPath,
    string? ManagerProgramFile,
    string StoreFolder,
    string MemoryTest,
    string LoaderName,
    string ResumeLoaderName)
{
    public static readonly BootFiles Bios = new(@"\bootmgr", null, @"\Boot", @"\Boot\memtest.exe", "winload.exe", "winresume.exe");

    public static readonly BootFiles Uefi = new(
        @"\EFI\Microsoft\Boot\bootmgfw.efi",
        @"\EFI\Microsoft\Boot\bootmgfw.efi",
        @"\EFI\Microsoft\Boot",
        @"\EFI\Microsoft\Boot\memtest.efi",
        "winload.efi",
        "winresume.efi");

    public string StorePath => $@"{StoreFolder}\BCD";
}
