using Keel.Core.Layout;
using Keel.Core.Volumes;

namespace Keel.Core.Rescue;

/// <summary>The type of a partition by what its volume holds.</summary>
internal static class PartitionKinds
{
    private const byte Fat12 = 0x01, Fat16Lba = 0x0E, Fat32Lba = 0x0C, Recovery = 0x27;
    private const byte LinuxSwap = 0x82, Linux = 0x83, LinuxLvm = 0x8E, Apple = 0xAF;
    private static readonly Guid LinuxData = new("0FC63DAF-8483-4772-8E79-3D69D8477DE4");

    /// <summary>What other systems keep, by the name of its mark: types of both kinds of table.</summary>
    private static readonly (string Name, byte Mbr, Guid Gpt)[] Foreign =
    [
        ("Linux swap", LinuxSwap, new("0657FD6D-A4AB-43C4-84E5-0933C84B4F4F")),
        ("LVM", LinuxLvm, new("E6D6D379-F507-44C2-A23C-238F2A3DF928")),
        ("LUKS", Linux, new("CA7D7CCB-63ED-4C53-861C-1742536059CC")),
        ("APFS", Apple, new("7C3457EF-0000-11AA-AA11-00306543ECAC")),
        ("HFS+", Apple, new("48465300-0000-11AA-AA11-00306543ECAC")),
        ("BitLocker", PartitionTypes.Ntfs, PartitionTypes.GptBasicData),
        ("ReFS", PartitionTypes.Ntfs, PartitionTypes.GptBasicData)
    ];

    /// <summary>The type in a slot of the old table.</summary>
    public static byte OfMbr(VolumeContents volume) => volume.Found switch
    {
        { IsForeign: true, Name: var name } => ForeignType(name).Mbr,
        _ when volume.IsEfiSystem && !volume.HoldsBiosFiles => PartitionTypes.EfiSystem,
        { Kind: FileSystemKind.Fat12 } => Fat12,
        { Kind: FileSystemKind.Fat16 } => Fat16Lba,
        { Kind: FileSystemKind.Fat32 } => Fat32Lba,
        _ => volume.IsRecovery ? Recovery : PartitionTypes.Ntfs
    };

    /// <summary>The type in a GUID partition table, and the name that such partitions usually have there.</summary>
    public static (Guid Type, string Name) OfGpt(VolumeContents volume) => volume.Found switch
    {
        { IsForeign: true, Name: var name } => (ForeignType(name).Gpt, ""),
        _ when volume.IsEfiSystem => (PartitionTypes.GptEfiSystem, "EFI system partition"),
        _ when volume.IsRecovery => (PartitionTypes.GptRecovery, ""),
        _ => (PartitionTypes.GptBasicData, "Basic data partition")
    };

    /// <summary>The attributes that such partitions usually have.</summary>
    public static ulong AttributesOf(Guid type)
    {
        const ulong neededAndWithoutLetter = 0x8000000000000001;
        return type == PartitionTypes.GptRecovery ? neededAndWithoutLetter : 0;
    }

    private static (byte Mbr, Guid Gpt) ForeignType(string name)
    {
        var known = Array.Find(Foreign, type => type.Name == name);
        return known.Name is null ? (Linux, LinuxData) : (known.Mbr, known.Gpt);
    }
}
