using Keel.Core.Layout;

namespace Keel.Core.Chain;

/// <summary>For which firmware a disk is laid out, and what says so.</summary>
internal sealed record FirmwareGuess(FirmwareKind Kind, string Reason)
{
    public static FirmwareGuess Of(MachineDisk disk)
    {
        var layout = disk.Layout;
        var efi = layout.Partitions.FirstOrDefault(partition => partition.IsEfiSystem);
        return layout.Scheme switch
        {
            PartitionScheme.Gpt when efi is not null => new(FirmwareKind.Uefi, $"GPT, and partition {efi.Number} is an EFI system partition"),
            PartitionScheme.Gpt => new(FirmwareKind.Uefi, "GPT, though without an EFI system partition"),
            PartitionScheme.Mbr when efi is not null && !layout.Active.Any() => new(FirmwareKind.Uefi, $"MBR without an active partition, but partition {efi.Number} is an EFI system partition"),
            PartitionScheme.Mbr when layout.Active.FirstOrDefault() is { } active => new(FirmwareKind.Bios, $"MBR, and partition {active.Number} is marked active"),
            PartitionScheme.Mbr => new(FirmwareKind.Bios, "MBR, though no partition is marked active"),
            _ => new(FirmwareKind.Bios, "no partition table, so nothing speaks for UEFI")
        };
    }
}
