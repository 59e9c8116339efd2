using CsCheck;
using Keel.Core.Errors;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Store;

namespace Keel.Core.Tests;

/// <summary>Device values of a store: by bytes, by the volumes that are here, and in words.</summary>
public sealed class DeviceTests
{
    private const int MiB = 1024 * 1024;

    [Fact]
    public void A_partition_of_a_disk_is_named_by_both_identities() => Gen
        .Select(Gen.UInt, Gen.Int[1, 100_000], Gen.Guid, Gen.Guid, Gen.Bool)
        .Sample((signature, startMiB, disk, id, isGpt) =>
        {
            var partition = Partition((long)startMiB * MiB, isGpt ? id : default);
            var identity = isGpt ? DiskIdentity.OfGpt(disk) : DiskIdentity.OfMbr(signature);
            var device = BootDevice.Read(BootDevice.Of(identity, partition).Raw);
            device.IsPartition.ShouldBeTrue();
            device.Disk.ShouldBe(identity);
            device.PartitionGuid.ShouldBe(isGpt ? id : null);
            device.StartBytes.ShouldBe(isGpt ? null : (long)startMiB * MiB);
            device.Names(identity, partition).ShouldBeTrue();
            device.Names(identity, Partition(((long)startMiB * MiB) + 512, isGpt ? Guid.NewGuid() : default)).ShouldBeFalse();
            device.Raw.Length.ShouldBe(88);
        });

    [Fact]
    public void A_file_on_a_partition_keeps_both() => Gen
        .Select(Gen.Int[1, 1000], Gen.String[Gen.Char['a', 'z'], 1, 200])
        .Sample((startMiB, name) =>
        {
            var inner = BootDevice.Of(DiskIdentity.OfMbr(0xB4AC0042), Partition((long)startMiB * MiB, default));
            var device = BootDevice.Read(BootDevice.OfFile(inner, $@"\machines\{name}.vhdx").Raw);
            var file = device.AsFile().ShouldNotBeNull();
            file.Path.ShouldBe($@"\machines\{name}.vhdx");
            file.IsRamdisk.ShouldBeFalse();
            file.Inner.StartBytes.ShouldBe((long)startMiB * MiB);
            device.IsPartition.ShouldBeFalse();
            device.IsStartedFrom.ShouldBeFalse();
        });

    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void A_volume_inside_a_virtual_disk_file_keeps_all_three(bool isGpt) => Gen
        .Select(Gen.Int[1, 1000], Gen.Int[1, 1000], Gen.String[Gen.Char['a', 'z'], 1, 200])
        .Sample((holderMiB, insideMiB, name) =>
        {
            var id = isGpt ? Guid.NewGuid() : default;
            var holder = BootDevice.Of(DiskIdentity.OfMbr(0xB4AC0042), Partition((long)holderMiB * MiB, default));
            var inside = Partition((long)insideMiB * MiB, id);
            var device = BootDevice.Read(BootDevice.OfVirtual(inside, holder, $@"\machines\{name}.vhdx").Raw);
            device.IsInVirtualDisk.ShouldBeTrue();
            device.IsCutShort.ShouldBeFalse();
            (device.IsPartition, device.IsStartedFrom, device.AsFile() is null).ShouldBe((false, false, true));
            var place = device.AsVirtual().ShouldNotBeNull();
            place.File.ShouldBe($@"\machines\{name}.vhdx");
            place.Holder.StartBytes.ShouldBe((long)holderMiB * MiB);
            place.StartBytes.ShouldBe(isGpt ? null : (long)insideMiB * MiB);
            place.PartitionGuid.ShouldBe(isGpt ? id : null);
            BitConverter.ToInt32(device.Raw, 0x18).ShouldBe(device.Raw.Length - 0x10, "its own length");
        });

    [Fact]
    public void Any_bytes_are_a_device_of_some_kind() => Gen.Byte.Array[0, 300].Sample(bytes =>
    {
        var device = BootDevice.Read(bytes);
        _ = (device.IsPartition, device.IsStartedFrom, device.Disk, device.StartBytes, device.PartitionGuid);
        _ = (device.AsFile(), device.AsVirtual());
        device.ToString().ShouldNotBeEmpty();
        device.Raw.ShouldBeSameAs(bytes);
    });

    [Theory]
    [InlineData(5u, true, false)]
    [InlineData(6u, false, true)]
    [InlineData(2u, false, false)]
    [InlineData(uint.MaxValue, false, false)]
    public void The_type_says_what_a_device_means(uint type, bool isStartedFrom, bool isPartition)
    {
        var raw = new byte[88];
        BitConverter.TryWriteBytes(raw.AsSpan(0x10), type);
        BitConverter.TryWriteBytes(raw.AsSpan(0x34), 1u);
        (BootDevice.Read(raw).IsStartedFrom, BootDevice.Read(raw).IsPartition).ShouldBe((isStartedFrom, isPartition));
        BootDevice.Read(raw[..87]).IsPartition.ShouldBeFalse();
    }

    [Fact]
    public void Words_for_a_device_lead_back_to_it()
    {
        using var practice = new Practice();
        var devices = new MachineDevices(practice.Machine);
        foreach (var words in (string[])["volume:1", "volume:2", "started-from", @"file:2:\machines\second.vhdx"])
            devices.Describe(devices.Parse(words)).ShouldBe(words);
        devices.Parse("VOLUME:2").Names(practice.Windows.DiskIdentity, practice.Windows.Partition).ShouldBeTrue();
    }

    [Theory]
    [InlineData("")]
    [InlineData("volume:")]
    [InlineData("volume:3")]
    [InlineData("volume:-1")]
    [InlineData("volume:1@other.img")]
    [InlineData("file:2")]
    [InlineData(@"file:9:\a")]
    [InlineData("C:")]
    public void Words_that_name_nothing_are_answered_with_those_that_do(string words)
    {
        using var practice = new Practice();
        var error = Should.Throw<WrongUsageException>(() => new MachineDevices(practice.Machine).Parse(words));
        error.Why.ShouldContain("volume:1, volume:2, and started-from");
    }

    [Fact]
    public void A_device_that_is_not_here_is_told_by_its_bytes()
    {
        using var practice = new Practice();
        var elsewhere = BootDevice.Of(DiskIdentity.OfMbr(0xDEADBEEF), Partition(MiB, default));
        new MachineDevices(practice.Machine).Describe(elsewhere)
            .ShouldBe("the partition at byte 1048576 of disk deadbeef (not here)");
        new UnknownDevices().Describe(elsewhere).ShouldBe("the partition at byte 1048576 of disk deadbeef");
    }

    private static Partition Partition(long startBytes, Guid id) =>
        new(1, new Blocks.ByteRange(startBytes, MiB), PartitionTypes.Ntfs, default, id, Active: false, Logical: false, "");
}
