using Keel.Cli.Terminal;
using Keel.Cli.Wording;
using Keel.Core.Disks;

namespace Keel.Cli.Views;

/// <summary>Shows the disks of this computer, as the kernel describes them.</summary>
internal sealed class ComputerView(Output output)
{
    public void Show(IReadOnlyList<ComputerDisk> disks)
    {
        output.Heading($"Disks of this computer: {disks.Count}", isFirst: true);
        output.Columns([.. disks.Select(disk => new (string, string?)[]
        {
            (disk.Path, "bold"),
            (Sizes.Text(disk.SizeBytes), null),
            (BusName(disk.Bus), null),
            (disk.IsRemovable ? "removable" : "built in", null),
            (DiskUse.Find(disk.Path) is null ? "" : "in use", "yellow"),
            (Identified(disk.Traits), null)
        })]);
        output.Line();
    }

    /// <summary>Model and serial number, as far as they are known.</summary>
    internal static string Identified(DiskTraits traits) =>
        string.Join(", ", ((string?[])[traits.Model, traits.Serial is { } serial ? $"serial {serial}" : null]).OfType<string>());

    private static string BusName(DiskBus bus) => bus switch
    {
        DiskBus.Ata => "SATA",
        DiskBus.Scsi => "SCSI",
        DiskBus.Nvme => "NVMe",
        DiskBus.Usb => "USB",
        DiskBus.Mmc => "card",
        DiskBus.Virtual => "virtual",
        _ => "-"
    };
}
