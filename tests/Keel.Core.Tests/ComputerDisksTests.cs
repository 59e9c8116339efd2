using Keel.Core.Disks;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>The disks of a computer, read from a folder that is laid out like sysfs.</summary>
public sealed class ComputerDisksTests
{
    private const long GiB = 1024L * 1024 * 1024;

    [Fact]
    public void Real_disks_are_told_apart_from_what_the_kernel_makes_up()
    {
        using var scratch = new Scratch();
        Add(scratch, "sda", "devices/pci0000:00/ata1/host0/block/sda", 500 * GiB, model: "Keel 500", serial: "BF-1");
        Add(scratch, "nvme0n1", "devices/pci0000:00/nvme/nvme0/nvme0n1", 256 * GiB, serial: "BF-2");
        Add(scratch, "nvme1n1", "devices/virtual/nvme-subsystem/nvme-subsys1/nvme1n1", 512 * GiB, serial: "BF-3");
        Add(scratch, "loop0", "devices/virtual/block/loop0", GiB);
        Add(scratch, "zram0", "devices/virtual/block/zram0", GiB);
        Add(scratch, "dm-0", "devices/virtual/block/dm-0", GiB);
        Add(scratch, "sdb", "devices/pci0000:00/usb2/2-1/host6/block/sdb", 32 * GiB, model: "Stick");
        Add(scratch, "sr0", "devices/pci0000:00/ata2/host1/block/sr0", GiB, isRemovable: true, type: "5");
        Add(scratch, "mmcblk0", "devices/platform/mmc_host/mmc0/block/mmcblk0", 64 * GiB);
        Add(scratch, "vda", "devices/pci0000:00/virtio1/block/vda", 20 * GiB);
        Add(scratch, "sdc", "devices/pci0000:00/host4/block/sdc", 8 * GiB, isRemovable: true);

        var disks = ComputerDisks.All(scratch["block"]);
        disks.Select(disk => (disk.Path, disk.Bus, disk.IsRemovable)).ShouldBe([
            ("/dev/mmcblk0", DiskBus.Mmc, false),
            ("/dev/nvme0n1", DiskBus.Nvme, false),
            ("/dev/nvme1n1", DiskBus.Nvme, false),
            ("/dev/sda", DiskBus.Ata, false),
            ("/dev/vda", DiskBus.Virtual, false),
            ("/dev/sdb", DiskBus.Usb, true),
            ("/dev/sdc", DiskBus.Scsi, true)
        ]);
        disks[3].SizeBytes.ShouldBe(500 * GiB);
        disks[3].Traits.ShouldBe(new DiskTraits("Keel 500", "BF-1", null));
        disks[0].Traits.ShouldBe(DiskTraits.None);
    }

    [Theory]
    [InlineData("")]
    [InlineData("0")]
    [InlineData("-8")]
    [InlineData("many")]
    public void What_has_no_size_is_no_disk(string size)
    {
        using var scratch = new Scratch();
        Add(scratch, "sda", "devices/ata1/block/sda", GiB);
        File.WriteAllText(scratch["devices/ata1/block/sda/size"], size);
        ComputerDisks.All(scratch["block"]).ShouldBeEmpty();
    }

    [Fact]
    public void A_computer_without_such_a_folder_has_none() => ComputerDisks.All("/no/such/folder").ShouldBeEmpty();

    private static void Add(
        Scratch scratch,
        string name,
        string place,
        long sizeBytes,
        string? model = null,
        string? serial = null,
        bool isRemovable = false,
        string? type = null)
    {
        Directory.CreateDirectory(scratch["block"]);
        Directory.CreateDirectory(Path.Combine(scratch[place], "device"));
        File.WriteAllText(Path.Combine(scratch[place], "size"), $"{sizeBytes / 512}\n");
        File.WriteAllText(Path.Combine(scratch[place], "removable"), isRemovable ? "1\n" : "0\n");
        if (model is not null) File.WriteAllText(Path.Combine(scratch[place], "device", "model"), $"{model}   \n");
        if (type is not null) File.WriteAllText(Path.Combine(scratch[place], "device", "type"), $"{type}\n");
        if (serial is not null) File.WriteAllText(Path.Combine(scratch[place], "device", "serial"), $"{serial}\n");
        Directory.CreateSymbolicLink(Path.Combine(scratch["block"], name), scratch[place]);
    }
}
