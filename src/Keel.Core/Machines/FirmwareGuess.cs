using Keel.Core.Facts;
using Keel.Core.Layout;

namespace Keel.Core.Machines;

/// <summary>For which firmware a disk is laid out, and what says so.</summary>
internal sealed record FirmwareGuess(FirmwareKind Kind, Remark Reason)
{
    public static FirmwareGuess Of(MachineDisk disk)
    {
        var layout = disk.Layout;
        var efi = layout.Partitions.FirstOrDefault(partition => partition.IsEfiSystem);
        return layout.Scheme switch
        {
            PartitionScheme.Gpt when efi is not null
                => new(FirmwareKind.Uefi, Remark.Of("firmware.gpt-esp", Fact.Partition.Is(efi.Number))),
            PartitionScheme.Gpt => new(FirmwareKind.Uefi, Remark.Of("firmware.gpt-alone")),
            PartitionScheme.Mbr when efi is not null && !layout.Active.Any()
                => new(FirmwareKind.Uefi, Remark.Of("firmware.mbr-esp", Fact.Partition.Is(efi.Number))),
            PartitionScheme.Mbr when layout.Active.FirstOrDefault() is { } active
                => new(FirmwareKind.Bios, Remark.Of("firmware.mbr-active", Fact.Partition.Is(active.Number))),
            PartitionScheme.Mbr => new(FirmwareKind.Bios, Remark.Of("firmware.mbr-alone")),
            _ => new(FirmwareKind.Bios, Remark.Of("firmware.no-table"))
        };
    }
}
