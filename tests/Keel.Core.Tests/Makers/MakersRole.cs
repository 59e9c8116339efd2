namespace Keel.Core.Tests.Makers;

/// <summary>What a partition of a maker's layout is for: its types, its attributes and its file system.</summary>
/// <param name="Name">The word for it.</param>
/// <param name="MbrType">Its type in an MBR, hexadecimal.</param>
/// <param name="GptType">Its type in a GPT.</param>
/// <param name="FileSystem">ntfs, fat16, fat32, ext4, locked (encrypted), or nothing.</param>
/// <param name="Label">The volume's label.</param>
/// <param name="GptBits">The numbers of its attribute bits in a GPT.</param>
internal sealed record MakersRole(
    string Name,
    string MbrType,
    Guid GptType,
    string FileSystem,
    string Label,
    params int[] GptBits)
{
    private const int Required = 0, ReadOnly = 60, Hidden = 62, NoLetter = 63;

    private static readonly Guid
        Basic = new("EBD0A0A2-B9E5-4433-87C0-68B6B72699C7"),
        Efi = new("C12A7328-F81F-11D2-BA4B-00A0C93EC93B"),
        Reserved = new("E3C9E316-0B5C-4DB8-817D-F92DF00215AE"),
        Recovery = new("DE94BBA4-06D1-4D40-A16A-BFD50179D6AC"),
        Linux = new("0FC63DAF-8483-4772-8E79-3D69D8477DE4"),
        Swap = new("0657FD6D-A4AB-43C4-84E5-0933C84B4F4F");

    private static readonly MakersRole[] All =
    [
        new("esp", "ef", Efi, "fat32", "SYSTEM"),
        new("esp-hidden", "ef", Efi, "fat32", "SYSTEM_DRV", Required, NoLetter),
        new("esp-empty", "ef", Efi, "fat32", "EFI2"),
        new("esp-maker", "ef", Efi, "fat32", "TOOLS"),
        new("msr", "0c", Reserved, "", ""),
        new("system", "7", Basic, "ntfs", "System Reserved"),
        new("windows", "7", Basic, "ntfs", "OS"),
        new("winre", "27", Recovery, "ntfs", "Windows RE tools", Required, NoLetter),
        new("winre-plain", "7", Basic, "ntfs", "WinRE_DRV", Hidden, NoLetter),
        new("restore", "27", Recovery, "ntfs", "RESTORE", Required, NoLetter),
        new("restore-readonly", "12", Recovery, "ntfs", "Factory", Required, ReadOnly, NoLetter),
        new("restore-fat", "b", Basic, "fat32", "RECOVERY"),
        new("diagnostics", "de", Basic, "fat16", "DIAGS"),
        new("data", "7", Basic, "ntfs", "Timetables"),
        new("data-fat", "c", Basic, "fat32", "SHARED"),
        new("data-empty", "7", Basic, "", ""),
        new("linux", "83", Linux, "ext4", "ferry"),
        new("swap", "82", Swap, "", ""),
        new("locked", "7", Basic, "locked", ""),
        new("medium", "c", Basic, "fat32", "SETUP")
    ];

    public static MakersRole Find(string name) => All.Single(role => role.Name == name);
}
