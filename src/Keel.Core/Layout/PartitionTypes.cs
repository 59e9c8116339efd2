namespace Keel.Core.Layout;

/// <summary>Partition types that matter to the chain, with the words shown for them.</summary>
public static class PartitionTypes
{
    /// <summary>Types in a slot of the MBR.</summary>
    public const byte Ntfs =
        0x07, Extended = 0x05, ExtendedLba = 0x0F, ExtendedLinux = 0x85, Dynamic = 0x42, Protective = 0xEE, EfiSystem = 0xEF,
        Recovery = 0x27;

    public static readonly Guid GptEfiSystem = new("C12A7328-F81F-11D2-BA4B-00A0C93EC93B");

    /// <summary>Reserved for Windows itself.</summary>
    public static readonly Guid GptReserved = new("E3C9E316-0B5C-4DB8-817D-F92DF00215AE");

    /// <summary>A volume of Windows.</summary>
    public static readonly Guid GptBasicData = new("EBD0A0A2-B9E5-4433-87C0-68B6B72699C7");

    /// <summary>A volume of Windows's recovery environment.</summary>
    public static readonly Guid GptRecovery = new("DE94BBA4-06D1-4D40-A16A-BFD50179D6AC");

    /// <summary>The database of dynamic disks.</summary>
    public static readonly Guid GptDynamicMetadata = new("5808C8AA-7E8F-42E0-85D2-E1E90434CFB3");

    /// <summary>The volumes of dynamic disks.</summary>
    public static readonly Guid GptDynamicData = new("AF9B60A0-1431-4F62-BC68-3311714A69AD");

    /// <summary>A member of a storage pool.</summary>
    public static readonly Guid GptStoragePool = new("E75CAF8F-F680-4CEE-AFA3-B001E56EFC2D");

    /// <summary>
    /// Whether Windows gives the volume of such a partition to its file systems; it passes hidden ones and those of other systems
    /// by.
    /// </summary>
    public static bool IsSeenByWindows(byte type) => type is 0x01 or 0x04 or 0x06 or Ntfs or 0x0B or 0x0C or 0x0E;

    /// <summary>The words for a type of the old table.</summary>
    public static string Name(byte type) => type switch
    {
        0x01 => "FAT12",
        0x04 or 0x06 or 0x0E => "FAT16",
        Ntfs => "NTFS",
        0x0B or 0x0C => "FAT32",
        Extended or ExtendedLba or ExtendedLinux => "extended",
        0x11 or 0x14 or 0x16 or 0x1B or 0x1C or 0x1E => "hidden FAT",
        0x17 => "hidden NTFS",
        0x27 => "recovery",
        Dynamic => "dynamic disk",
        0x82 => "Linux swap",
        0x83 => "Linux",
        0x8E => "Linux LVM",
        0xFD => "Linux RAID",
        Protective => "protective",
        EfiSystem => "EFI system",
        _ => $"type {type:x2}"
    };

    /// <summary>The words for a GPT type.</summary>
    public static string Name(Guid type)
    {
        (Guid Type, string Name)[] names =
        [
            (GptEfiSystem, "EFI system"), (GptReserved, "reserved"), (GptBasicData, "basic data"), (GptRecovery, "recovery"),
            (GptDynamicMetadata, "dynamic disk"), (GptDynamicData, "dynamic disk"), (GptStoragePool, "storage pool"),
            (new Guid("0FC63DAF-8483-4772-8E79-3D69D8477DE4"), "Linux"),
            (new Guid("21686148-6449-6E6F-744E-656564454649"), "BIOS boot")
        ];
        var known = Array.Find(names, entry => entry.Type == type);
        return known.Name ?? $"type {type}";
    }
}
