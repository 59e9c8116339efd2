using CsCheck;
using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Partition tables: those of other programs, damaged ones, hostile ones.</summary>
public sealed class LayoutTests
{
    private const int MiB = 1024 * 1024;

    [Fact]
    public async Task Logical_partitions_are_numbered_as_sfdisk_numbers_them()
    {
        using var scratch = new Scratch();
        await Sfdisk(scratch, "label: dos\n2048,20480,7,*\n24576,40960,5\n70000,8192,7\n26624,8192,7\n36864,8192,7\n");
        using var disk = MachineDisk.Open(scratch["disk"]);
        disk.Layout.Problems.ShouldBeEmpty();
        disk.Layout.Partitions
            .Select(partition => (partition.Number, partition.Range.Start / 512))
            .ShouldBe([(1, 2048), (2, 24576), (3, 70000), (5, 26624), (6, 36864)], ignoreOrder: true);
    }

    [Theory]
    [InlineData("primary", LayoutProblemKind.GptPrimaryDamaged)]
    [InlineData("backup", LayoutProblemKind.GptBackupDamaged)]
    [InlineData("protective", LayoutProblemKind.GptProtectiveMissing)]
    [InlineData("grown", LayoutProblemKind.GptBackupMisplaced)]
    public async Task A_damaged_gpt_is_named_and_mended_for_sgdisk_too(string damage, LayoutProblemKind expected)
    {
        using var scratch = new Scratch();
        await File.WriteAllBytesAsync(scratch["disk"], new byte[20 * MiB], TestContext.Current.CancellationToken);
        await Tool.MustAgree("sgdisk", "-n1:2048:+4M", "-t1:ef00", "-n2:0:+8M", "-t2:0700", scratch["disk"]);
        using (var before = MachineDisk.Open(scratch["disk"])) before.Layout.Problems.ShouldBeEmpty();
        var bytes = await File.ReadAllBytesAsync(scratch["disk"], TestContext.Current.CancellationToken);
        switch (damage)
        {
            case "primary":
                bytes[512 + 60] ^= 1;
                break;
            case "backup":
                bytes[^(512 * 20)] ^= 1;
                break;
            case "protective":
                bytes.AsSpan(446, 66).Clear();
                break;
            default:
                Array.Resize(ref bytes, 30 * MiB);
                break;
        }

        var disk = new MemoryBlocks(bytes);
        DiskLayout.Read(disk).Problems.ShouldHaveSingleItem().Kind.ShouldBe(expected);
        if (damage == "protective")
            GptEditor.WriteProtective(disk);
        else
            GptEditor.RewriteBothCopies(disk).ShouldBe(GptEditResult.Done);
        DiskLayout.Read(disk).Problems.ShouldBeEmpty();
        DiskLayout.Read(disk).Partitions.Count.ShouldBe(2);
        await File.WriteAllBytesAsync(scratch["mended"], disk.Bytes, TestContext.Current.CancellationToken);
        (await Tool.MustAgree("sgdisk", "--verify", scratch["mended"])).ShouldContain("No problems found");
    }

    [Fact]
    public void Sectors_of_4096_bytes_are_recognised_in_an_image()
    {
        using var scratch = new Scratch();
        var disk = new MemoryBlocks(new byte[64 * MiB], 4096);
        var entries = new byte[128 * 128];
        PartitionTypes.GptEfiSystem.TryWriteBytes(entries);
        Guid.NewGuid().TryWriteBytes(entries.AsSpan(16));
        BitConverter.TryWriteBytes(entries.AsSpan(32), 256L);
        BitConverter.TryWriteBytes(entries.AsSpan(40), 2559L);
        var last = (disk.LengthBytes / 4096) - 1;
        var header = new GptHeader(
            92,
            1,
            last,
            6,
            last - 5,
            Guid.NewGuid(),
            2,
            128,
            128,
            System.IO.Hashing.Crc32.HashToUInt32(entries),
            CrcMatches: true);
        disk.Write(4096, header.ToSector(4096));
        disk.Write(2 * 4096, entries);
        GptEditor.WriteProtective(disk);
        GptEditor.RewriteBothCopies(disk).ShouldBe(GptEditResult.Done);
        File.WriteAllBytes(scratch["disk"], disk.Bytes);
        using var opened = MachineDisk.Open(scratch["disk"]);
        opened.Layout.Problems.ShouldBeEmpty();
        opened.Layout.Partitions.ShouldHaveSingleItem().Range.ShouldBe(new ByteRange(256 * 4096, 2304 * 4096));
    }

    [Fact]
    public void Extended_partitions_in_a_ring_end()
    {
        var disk = new MemoryBlocks(new byte[4 * MiB]);
        Table(disk, 0, new PartitionSlot(0, 5, 100, 4000));
        Table(disk, 100, new PartitionSlot(0, 7, 10, 20), new PartitionSlot(0, 5, 200, 100));
        Table(disk, 300, new PartitionSlot(0, 7, 10, 20), new PartitionSlot(0, 5, 0, 100));
        DiskLayout.Read(disk).Has(LayoutProblemKind.LogicalChainDamaged).ShouldBeTrue();
    }

    [Theory]
    [InlineData(4096, 1)]
    [InlineData(uint.MaxValue, 128)]
    [InlineData(1, uint.MaxValue)]
    [InlineData(0, 128)]
    public void Absurd_gpt_entries_are_damage(uint count, uint size)
    {
        var disk = new MemoryBlocks(new byte[4 * MiB]);
        GptEditor.WriteProtective(disk);
        disk.Write(512, new GptHeader(92, 1, 8191, 34, 8000, Guid.NewGuid(), 2, count, size, 0, CrcMatches: true).ToSector(512));
        DiskLayout.Read(disk).Has(LayoutProblemKind.GptBothDamaged).ShouldBeTrue();
    }

    /// <summary>Slots with values that mean something: in the disk, past it, extended, overlapping.</summary>
    private static readonly Gen<PartitionSlot> AnySlot = Gen
        .Select(Gen.Int[0, 3], Gen.Int[0, 6], Gen.UInt[0, 5000], Gen.Int[0, 3])
        .Select((mark, type, first, length) => new PartitionSlot(
            (byte)(mark == 0 ? 0x80 : mark == 1 ? 0x7F : 0),
            (byte)(type == 0 ? 0 : type == 1 ? 5 : type == 2 ? 0x0F : type == 3 ? 0xEE : 7),
            length == 3 ? uint.MaxValue - first : first,
            length switch { 0 => 0u, 1 => 100u, 2 => 2000u, _ => uint.MaxValue }));

    [Fact]
    public void Any_slots_are_read_as_partitions_or_told_as_problems() => Gen
        .Select(AnySlot.Array[4], AnySlot.Array[4], AnySlot.Array[2])
        .Sample((first, second, third) =>
        {
            var disk = new MemoryBlocks(new byte[2 * MiB]);
            Table(disk, 0, first);
            foreach (var place in first.Where(slot => slot.IsExtended && slot.FirstSector is > 0 and < 4000))
                Table(disk, (int)place.FirstSector, second);
            Table(disk, 4000, third);
            var layout = DiskLayout.Read(disk);
            layout.Partitions.Count.ShouldBeLessThan(600);
            layout.Partitions.Select(partition => partition.Number).ShouldBeUnique();
            layout.Has(LayoutProblemKind.PastEnd)
                .ShouldBe(layout.Partitions.Any(partition => partition.Range.End > disk.LengthBytes));
        });

    [Fact]
    public void Any_gpt_with_right_checksums_is_read_or_told_as_damage()
    {
        var (read, damaged) = (0, 0);
        Gen.Select(Gen.Long[0, 5000], Gen.Long[-1, 6000], Gen.Long[0, 6000], Gen.Int[0, 4], Gen.Int[0, 3]).Sample(
            (firstSector, lastSector, usable, count, size) =>
            {
                var disk = new MemoryBlocks(new byte[2 * MiB]);
                var entryBytes = size switch { 0 => 128u, 1 => 256u, 2 => 64u, _ => 4096u };
                var entryCount = count switch { 0 => 128u, 1 => 4u, 2 => 0u, 3 => 1000u, _ => uint.MaxValue };
                var entries = new byte[(int)Math.Min(MiB, (ulong)entryBytes * entryCount)];
                if (entries.Length >= 128)
                {
                    entries.Put(0, new GptEntryRecord
                    {
                        Type = PartitionTypes.GptBasicData,
                        Id = new Guid("0badc0de-0000-0000-0000-000000000001"),
                        FirstSector = firstSector,
                        LastSector = lastSector
                    });
                }

                GptEditor.WriteProtective(disk);
                var crc = System.IO.Hashing.Crc32.HashToUInt32(entries);
                var header = new GptHeader(92, 1, 4095, 34, usable, Guid.Empty, 2, entryCount, entryBytes, crc, CrcMatches: true);
                disk.Write(512, header.ToSector(512));
                disk.Write(1024, entries);
                var layout = DiskLayout.Read(disk);
                if (layout.Has(LayoutProblemKind.GptBothDamaged))
                {
                    layout.Partitions.ShouldBeEmpty();
                    Interlocked.Increment(ref damaged);
                    return;
                }

                foreach (var partition in layout.Partitions) partition.Range.Length.ShouldBeGreaterThan(0);
                if (layout.Partitions.Any(partition => partition.Range.End > disk.LengthBytes))
                    layout.Has(LayoutProblemKind.PastEnd).ShouldBeTrue();
                Interlocked.Increment(ref read);
            },
            iter: 2000);
        read.ShouldBeGreaterThan(50);
        damaged.ShouldBeGreaterThan(50);
    }

    [Theory]
    [InlineData("fs.ntfs.xz")]
    [InlineData("fs.vfat.xz")]
    [InlineData("fs.multiple.xz")]
    public async Task A_disk_that_nobody_here_made_has_no_false_findings(string sample)
    {
        using var scratch = new Scratch();
        await Tool.MustAgree("sh", "-c", $"xz -dc /usr/share/forensics-samples/{sample} > {scratch["disk"]}");
        using var machine = Machine.Open(scratch["disk"]);
        var layout = machine.StartDisk.Layout;
        layout.Problems
            .Where(problem => problem.Kind is not (LayoutProblemKind.NoTable or LayoutProblemKind.NoneActive))
            .ShouldBeEmpty();
        var expected = (await Tool.Run("sfdisk", "--dump", scratch["disk"])).Output
            .Split('\n')
            .Count(line => line.Contains("start=", StringComparison.Ordinal));
        layout.Partitions.Count.ShouldBe(expected);
        machine.Volumes.ShouldAllBe(volume => volume.FilesProblem == null);
    }

    private static void Table(MemoryBlocks disk, int sector, params PartitionSlot[] slots)
    {
        var record = new MasterBootRecord(new byte[512]) { HasMark = true };
        for (var index = 0; index < slots.Length; index++) record.SetSlot(index, slots[index]);
        disk.Write(sector * 512, record.ToBytes());
    }

    private static async Task Sfdisk(Scratch scratch, string script)
    {
        await File.WriteAllBytesAsync(scratch["disk"], new byte[50 * MiB], TestContext.Current.CancellationToken);
        await File.WriteAllTextAsync(scratch["script"], script, TestContext.Current.CancellationToken);
        await Tool.MustAgree("sh", "-c", $"sfdisk -q {scratch["disk"]} < {scratch["script"]}");
    }
}
