using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Drills;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>
/// A boot sector with one wrong field, as a table: field, file system, volume, each with a good backup copy and without one. With
/// it the sector comes back to the byte; without one nothing on the volume is written over.
/// </summary>
public sealed class BootSectorFieldTests
{
    private static readonly (string Name, int At, long[] Values, int Bytes)[] OfNtfs =
    [
        ("bytes per sector", 0x0B, [1024, 256, 4096], 2),
        ("sectors per cluster", 0x0D, [1, 16, 3], 1),
        ("total sectors", 0x28, [1000, 700_000], 8),
        ("$MFT", 0x30, [5], 8),
        ("$MFT mirror", 0x38, [7], 8),
        ("file record size", 0x40, [2, 0xF5], 1),
        ("index block size", 0x44, [4], 1)
    ];

    private static readonly (string Name, int At, long[] Values, int Bytes)[] OfFat =
    [
        ("bytes per sector", 0x0B, [1024], 2),
        ("sectors per cluster", 0x0D, [64, 3, 1], 1),
        ("reserved sectors", 0x0E, [33, 1, 64], 2),
        ("number of tables", 0x10, [1, 3], 1),
        ("total sectors", 0x20, [5000, 304_800], 4),
        ("sectors per table", 0x24, [7, 900], 4),
        ("root cluster", 0x2C, [3, 4, 100_000, 0], 4)
    ];

    public static TheoryData<FirmwareKind, int, string, long> Cases()
    {
        var cases = new TheoryData<FirmwareKind, int, string, long>();
        (FirmwareKind, int)[] volumes =
            [(FirmwareKind.Bios, 1), (FirmwareKind.Bios, 2), (FirmwareKind.Uefi, 1), (FirmwareKind.Uefi, 3)];
        foreach (var (firmware, volume) in volumes)
        {
            foreach (var (name, _, values, _) in FieldsOf(firmware, volume))
            {
                foreach (var value in values) cases.Add(firmware, volume, name, value);
            }
        }

        return cases;
    }

    [Theory]
    [MemberData(nameof(Cases))]
    public void A_wrong_field_comes_back_from_the_copy(FirmwareKind firmware, int volume, string field, long value)
    {
        using var scratch = new Scratch();
        var (disk, sound) = Made(scratch, firmware, volume, blocks => Put(blocks, firmware, volume, field, value));
        PracticeDisk.Change(disk, machine =>
        {
            var plan = Plan.For(machine, RepairTerms.Usual);
            plan.Before.Verdict.ShouldBe(Verdict.Broken);
            plan.After.Verdict.ShouldBe(Verdict.Sound);
        });
        SparseHash.Of(disk).ShouldBe(sound);
    }

    /// <summary>
    /// Two faults: the field, and a copy that is gone. What is written then is proven by the volume, or is nothing.
    /// </summary>
    [Theory]
    [MemberData(nameof(Cases))]
    public void Without_a_copy_nothing_is_made_worse(FirmwareKind firmware, int volume, string field, long value)
    {
        using var scratch = new Scratch();
        var (disk, _) = Made(scratch, firmware, volume, blocks =>
        {
            blocks.Write(IsFat(firmware, volume) ? 6 * 512 : blocks.LengthBytes - 512, new byte[512]);
            Put(blocks, firmware, volume, field, value);
        });
        using var machine = Machine.Open(disk);
        var range = machine.Volumes.First(other => other.Number == volume).Partition.Range;
        var inner = new ByteRange(range.Start + (64 * 512), range.Length - (65 * 512));
        var plan = Plan.For(machine, RepairTerms.Usual);
        if (plan.After.Verdict != Verdict.Broken) return;
        plan.Changes.Disks[0].Changes.Ranges.ShouldNotContain(changed => changed.Range.Overlaps(inner));
    }

    [Theory]
    [InlineData(FirmwareKind.Bios, 1, 2)]
    [InlineData(FirmwareKind.Bios, 2, 1)]
    [InlineData(FirmwareKind.Uefi, 1, 3)]
    [InlineData(FirmwareKind.Uefi, 3, 1)]
    public void The_sector_of_another_volume_is_known_for_that(FirmwareKind firmware, int volume, int other)
    {
        using var scratch = new Scratch();
        var (disk, sound) = Made(scratch, firmware, volume, _ => { });
        PracticeDisk.Change(disk, machine =>
        {
            var theirs = machine.Volumes.First(one => one.Number == other).Blocks.ReadBytes(0, 512);
            machine.Volumes.First(one => one.Number == volume).Blocks.Write(0, theirs);
        });
        PracticeDisk.Change(disk, machine =>
        {
            var plan = Plan.For(machine, RepairTerms.Usual);
            plan.Before.Verdict.ShouldBe(Verdict.Broken);
            plan.After.Verdict.ShouldBe(Verdict.Sound);
        });
        SparseHash.Of(disk).ShouldBe(sound);
    }

    /// <summary>A volume that was made smaller keeps an old copy at the end of its partition.</summary>
    [Fact]
    public async Task A_volume_that_was_made_smaller_is_sound()
    {
        using var scratch = new Scratch();
        var path = scratch["volume"];
        using (var file = File.Create(path)) file.SetLength(96 << 20);
        await Tool.MustAgree("mkntfs", "-F", "-f", "-q", path);
        await Tool.MustAgree("sh", "-c", $"echo y | ntfsresize -f -s 60M '{path}'");
        using var disk = DiskFile.Open(path);
        BootSectorFault.Of(disk).ShouldBeNull();
    }

    /// <summary>
    /// FAT volumes of all kinds as other programs make them have no fault, and a total that is too small is one.
    /// </summary>
    [Theory]
    [InlineData("12", 4, "-s4")]
    [InlineData("16", 32, "-s2")]
    [InlineData("16", 200, "-s8")]
    [InlineData("32", 100, "-s1")]
    [InlineData("32", 300, "-s8")]
    public async Task Others_fat_volumes_are_sound(string bits, int megabytes, string cluster)
    {
        using var scratch = new Scratch();
        var path = scratch["volume"];
        using (var file = File.Create(path)) file.SetLength((long)megabytes << 20);
        await Tool.MustAgree("mkfs.fat", "-F", bits, cluster, path);
        await Tool.MustAgree("mmd", "-i", path, "::/EFI");
        using (var disk = DiskFile.Open(path)) BootSectorFault.Of(disk).ShouldBeNull();
        var sector = File.ReadAllBytes(path)[..512];
        var isSmall = BitConverter.ToUInt16(sector, 0x13) != 0;
        using (var file = File.OpenWrite(path))
        {
            file.Position = isSmall ? 0x13 : 0x20;
            file.Write(isSmall ? BitConverter.GetBytes((ushort)(BitConverter.ToUInt16(sector, 0x13) / 8))
                : BitConverter.GetBytes(BitConverter.ToUInt32(sector, 0x20) / 8));
        }

        using var wrong = DiskFile.Open(path);
        if (FatBootSector.TryRead(wrong.ReadBytes(0, 512))!.Kind.ToString() == $"Fat{bits}")
            BootSectorFault.Of(wrong)!.Sector.AsSpan(0x13, 2).SequenceEqual(sector.AsSpan(0x13, 2)).ShouldBeTrue();
    }

    private static (string Disk, string Sound) Made(
        Scratch scratch,
        FirmwareKind firmware,
        int volume,
        Action<IWritableBlocks> change)
    {
        var disk = scratch["disk.img"];
        PracticeImage.Make(disk, new PracticeSpec { Firmware = firmware }, Faults.Find("none"));
        var sound = SparseHash.Of(disk);
        PracticeDisk.Change(disk, machine => change(machine.Volumes.First(one => one.Number == volume).Blocks));
        return (disk, sound);
    }

    private static void Put(IWritableBlocks blocks, FirmwareKind firmware, int volume, string field, long value)
    {
        var (_, at, _, bytes) = FieldsOf(firmware, volume).First(one => one.Name == field);
        blocks.Write(at, BitConverter.GetBytes(value).AsSpan(0, bytes));
    }

    private static (string Name, int At, long[] Values, int Bytes)[] FieldsOf(FirmwareKind firmware, int volume) =>
        IsFat(firmware, volume) ? OfFat : OfNtfs;

    private static bool IsFat(FirmwareKind firmware, int volume) => firmware == FirmwareKind.Uefi && volume == 1;
}
