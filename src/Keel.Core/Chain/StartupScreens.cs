namespace Keel.Core.Chain;

/// <summary>Ids of the startup errors that findings lead to; each is explained in the table of startup errors.</summary>
internal static class StartupScreens
{
    public const string NoBootDevice = "no bootable device";
    public const string InvalidTable = "invalid partition table";
    public const string ErrorLoading = "error loading operating system";
    public const string MissingSystem = "missing operating system";
    public const string NotFound = "an operating system wasn't found";
    public const string DiskRead = "a disk read error occurred";
    public const string BlinkingCursor = "a blinking cursor";
    public const string ManagerMissing = "BOOTMGR is missing";
    public const string ManagerCompressed = "BOOTMGR is compressed";
    public const string ManagerCorrupt = "BOOTMGR image is corrupt";
    public const string Nt5Missing = "NTLDR is missing";
    public const string BlackAfterSignIn = "black screen after sign-in";
    public const string SignInEnds = "sign-in ends at once";
    public const string Nt5Compressed = "NTLDR is compressed";
    public const string DetectFailed = "NTDETECT failed";
    public const string InvalidBootList = "invalid boot.ini";
    public const string Nt5LayerMissing = "missing or corrupt hal.dll";
    public const string Nt5KernelMissing = "missing or corrupt ntoskrnl.exe";
    public const string Nt5HiveMissing = "missing or corrupt system32 config system";
    public const string DiskConfiguration = "computer disk hardware configuration problem";
    public const string StoreIncomplete = "the boot configuration data file is missing required information";

    private static readonly string[] OfBootCode =
    [
        InvalidTable, ErrorLoading, MissingSystem, DiskRead, BlinkingCursor, ManagerMissing, ManagerCompressed, ManagerCorrupt,
        Nt5Missing, Nt5Compressed
    ];

    /// <summary>Whether boot code of a BIOS machine prints it, which UEFI firmware does not run.</summary>
    public static bool IsOfBootCode(string screen) => OfBootCode.Contains(screen);

    public const string NoSuchDevice =
        "0xC000000E", NoSuchFile = "0xC000000F", NameNotFound = "0xC0000034", InvalidImage = "0xC000007B";

    public const string AccessDenied =
        "0xC0000022", NotSupported = "0xC00000BB", WrongProcessor32 = "0xC0000359", WrongProcessor64 = "0xC000035A";

    public const string CantLoadHive =
        "0xC0000218", ChecksumMismatch =
            "0xC0000221", InvalidHash = "0xC0000428", UnexpectedIo = "0xC00000E9", NoMemory = "0xC000009A";

    public const string InaccessibleBootDevice =
        "stop 0x0000007B", UnmountableVolume =
            "stop 0x000000ED", NtfsStop =
                "stop 0x00000024", BadSystemConfig =
                    "stop 0x00000074", RegistryStop =
                        "stop 0x00000051", ConfigFailed = "stop 0x00000067", AutomaticRepair = "preparing automatic repair";

    public const string SecureBootViolation = "Secure Boot violation";

    public const string FileInvalid =
        "0xC0000098", IsDirectory =
            "0xC00000BA", RegistryCorrupt = "0xC000014C", NotFoundElement = "0xC0000225", EndOfFile = "0xC0000011";

    public const string ProcessTerminated =
        "0xC000021A", LibraryNotFound = "0xC0000135", FirstProcess = "stop 0x0000006B";

    public const string SetupCantProceed = "attempting to recover the installation";

    public const string PathNotFound = "0xC000003A", Locked = "0xC0210000", RecoveryPrompt = "enter the recovery key",
        FileCorrupt = "0xC0000102";
}
