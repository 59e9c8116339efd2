namespace Keel.Core.Store;

/// <summary>The element numbers that keel itself reads and writes.</summary>
internal static class Element
{
    public const uint ProgramVolume =
        0x11000001, ProgramFile = 0x12000002, Title = 0x12000004, Language = 0x12000005, SettingsFrom = 0x14000006;

    public const uint RescueEntries = 0x14000008, RescueByItself = 0x16000009, SetupSystem = 0x26000022;
    public const uint RamdiskVolume = 0x31000003, RamdiskFile = 0x32000004;
    public const uint SerialManagement = 0x16000020;
    public const uint MenuOrder = 0x24000001, OnceOnly = 0x24000002, Preferred = 0x23000003, MenuSeconds = 0x25000004;

    public const uint ManagerResumeEntry =
        0x23000006, ResumePending = 0x26000005, MenuTools = 0x24000010, MenuAlways = 0x26000020;

    public const uint StoreVolume = 0x21000022, StoreFile = 0x22000023;

    public const uint WindowsVolume =
        0x21000001, WindowsFolder =
            0x22000002, KernelFile = 0x22000011, HardwareLayerFile = 0x22000012, WindowsResumeEntry = 0x23000003;

    public const uint ExecuteProtection = 0x25000020, MenuLook = 0x250000c2;
    public const uint SafeStart = 0x25000080, SafeStartPrompt = 0x26000081;
    public const uint MemoryCeiling = 0x15000007, WithheldMemory = 0x25000031;
    public const uint EarlyDebugging = 0x16000010, KernelDebugging = 0x260000a0;
    public const uint LastGoodConfiguration = 0x26000025, AcceptTestSignatures = 0x16000049;
    public const uint SkipIntegrityChecks = 0x16000048;
    public const uint IsolatedContext = 0x16000060, AllowedSettings = 0x17000077, AllowedSetting = 0x15000075;
    public const uint ResumeMenuLook = 0x25000008, ResumeDebugging = 0x26000006, UseBadMemory = 0x1600000b;
    public const uint HypervisorDebugLink = 0x250000f3, HypervisorDebugPort = 0x250000f4, HypervisorDebugSpeed = 0x250000f5;
    public const uint DebugLink = 0x15000011;
    public const uint HibernationVolume = 0x21000001, HibernationFile = 0x22000002;

    /// <summary>The format nibble of a device element.</summary>
    public static bool IsDevice(uint element) => (element >> 24 & 0xF) == 1;

    /// <summary>The key name of an element: eight hexadecimal digits.</summary>
    public static string KeyName(uint element) => element.ToString("x8");
}
