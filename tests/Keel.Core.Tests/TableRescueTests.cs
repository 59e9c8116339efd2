using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Drills;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Requests;
using Keel.Core.Rescue;
using Keel.Core.Search;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Lost partition tables and lost entries of them, put back from what stands on the disk.</summary>
public sealed class TableRescueTests
{
    private const int Sector = 512;

    public static TheoryData<FirmwareKind, string> Damages => new()
    {
        { FirmwareKind.Bios, "sector 0" },
        { FirmwareKind.Bios, "first MiB" },
        { FirmwareKind.Bios, "table" },
        { FirmwareKind.Bios, "entry 1" },
        { FirmwareKind.Bios, "entry 2" },
        { FirmwareKind.Bios, "letters" },
        { FirmwareKind.Bios, "boot sector" },
        { FirmwareKind.Uefi, "sector 0" },
        { FirmwareKind.Uefi, "first MiB" },
        { FirmwareKind.Uefi, "entry 1" },
        { FirmwareKind.Uefi, "entry 3" },
        { FirmwareKind.Uefi, "both headers" },
        { FirmwareKind.Uefi, "letters" },
        { FirmwareKind.Uefi, "grown" }
    };

    [Theory, MemberData(nameof(Damages))]
    public void What_the_machine_starts_from_is_listed_again_as_it_was(FirmwareKind firmware, string damage)
    {
        using var practice = new Practice("none", firmware);
        var before = practice.Machine.StartDisk.Layout;
        Damage(practice, damage);
        practice.Machine.StartDisk.Layout.Partitions.ShouldNotBe(before.Partitions);

        var plan = Plan.For(practice.Machine, RepairTerms.Usual);

        plan.Before.Verdict.ShouldBe(Verdict.Broken);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        var after = practice.Machine.StartDisk.Layout;
        after.Scheme.ShouldBe(before.Scheme);
        after.Identity.ShouldBe(before.Identity);
        after.Partitions.Select(Essence).ShouldBe(before.Partitions.Select(Essence));
    }

    [Fact]
    public void With_both_copies_gone_a_gpt_has_the_identifiers_that_its_own_store_remembers()
    {
        using var practice = new Practice("none", FirmwareKind.Uefi);
        var before = practice.Machine.StartDisk.Layout;
        Damage(practice, "both tables");
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        var after = practice.Machine.StartDisk.Layout;
        after.Identity.ShouldBe(before.Identity);
        foreach (var number in new[] { 1, 3 })
        {
            var was = before.Partitions.First(partition => partition.Number == number);
            after.Partitions.Single(partition => partition.Range == was.Range)
                .ShouldSatisfyAllConditions(now => now.Id.ShouldBe(was.Id), now => now.GptType.ShouldBe(was.GptType));
        }

        after.Partitions.Single(partition => partition.GptType == PartitionTypes.GptRecovery)
            .Attributes.ShouldBe(0x8000000000000001UL, "Windows leaves it alone, and gives it no letter");
    }

    [Fact]
    public void A_disk_of_data_alone_is_left_to_the_technician()
    {
        using var practice = new Practice();
        practice.ChangeSystem(files => Empty(files));
        practice.ChangeWindows(files => files.Rename(@"\Windows\System32", "Timetables"));
        var bytes = practice.Machine.StartDisk.Overlay.ReadBytes(0, (int)practice.Machine.StartDisk.Overlay.LengthBytes);
        bytes.AsSpan(0, Sector).Clear();
        using var machine = new Machine([new MachineDisk("data", new MemoryBlocks(bytes))]);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Steps.ShouldBeEmpty();
        plan.Refused.ShouldContain(refusal => refusal.Why.Id == "left.table-no-system");

        var reading = TableRescue.Readings(machine.StartDisk, machine.StartDisk.QuickSearch(), Guid.NewGuid)
            .ShouldHaveSingleItem();
        reading.New.Count().ShouldBe(2);
        var asked = TableRequests.Rescue(machine, reading);
        asked.Steps.ShouldHaveSingleItem();
        machine.StartDisk.Layout.Partitions.Count.ShouldBe(2);
    }

    [Fact]
    public void A_volume_from_the_first_sector_on_gets_no_table()
    {
        using var practice = new Practice();
        var range = practice.Windows.Partition.Range;
        var bytes = practice.Windows.Blocks.ReadBytes(0, (int)range.Length);
        BitConverter.TryWriteBytes(bytes.AsSpan(0x1C), 0);
        using var machine = new Machine([new MachineDisk("volume", new MemoryBlocks(bytes))]);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Steps.ShouldBeEmpty();
        plan.Refused.ShouldContain(refusal => refusal.Why.Id == "left.table-is-volume");
    }

    [Fact]
    public void Two_readings_that_are_as_well_borne_out_are_not_chosen_between()
    {
        var first = Found(2048, 100);
        var second = Found(2100, 100);
        var result = SearchResult.Of([first, second], 1 << 20, isThorough: false);
        result.Volumes.ShouldBe([first]);
        result.Rivals.ShouldBe([second]);
    }

    [Fact]
    public void An_image_of_large_sectors_is_not_given_a_table_of_small_ones()
    {
        using var scratch = new Scratch();
        var spec = new PracticeSpec { Firmware = FirmwareKind.Uefi, SectorBytes = 4096 };
        PracticeImage.Make(scratch["disk"], spec, Faults.Find("none"));
        using (var disk = DiskFile.OpenForWriting(scratch["disk"])) disk.Write(0, new byte[1024 * 1024]);
        using (var machine = Machine.Open(scratch["disk"]))
        {
            machine.StartDisk.Overlay.SectorBytes.ShouldBe(Sector, "nothing tells the size of the sectors any more");
            var plan = Plan.For(machine, RepairTerms.Usual);
            plan.Steps.ShouldBeEmpty();
            plan.Refused.ShouldContain(refusal => $"{refusal.Why}".Contains("--sector 4096"));
        }

        using var asked = Machine.Open([scratch["disk"]], variables: null, startsThrough: null, sectorBytes: 4096);
        Plan.For(asked, RepairTerms.Usual).After.Verdict.ShouldBe(Verdict.Sound);
    }

    [Fact]
    public void A_volume_inside_another_is_a_file_of_it()
    {
        var whole = Found(2048, 1000);
        var inside = Found(2200, 100);
        var result = SearchResult.Of([inside, whole], 1 << 20, isThorough: false);
        result.Volumes.ShouldBe([whole]);
        result.Rivals.ShouldBeEmpty();
    }

    [Fact]
    public void One_whose_size_is_not_known_ends_where_the_next_begins()
    {
        var open = Found(2048, 0) with { SizeIsKnown = false };
        var next = Found(4096, 100);
        var result = SearchResult.Of([open, next], 1 << 22, isThorough: false);
        result.Volumes[0].Range.End.ShouldBe(next.Range.Start);
        SearchResult.Of([open], 1 << 22, isThorough: false).Volumes[0].Range.End.ShouldBe(1 << 22);
    }

    private static FoundVolume Found(long firstSector, long sectors) => new(
        new ByteRange(firstSector * Sector, sectors * Sector),
        Core.Volumes.FileSystemKind.Ntfs,
        "NTFS",
        VolumeEvidence.BootSector | VolumeEvidence.OwnPlace | VolumeEvidence.FileTable | VolumeEvidence.FileTableCopy);

    private static void Empty(Core.Volumes.IVolume files)
    {
        files.Rename(@"\bootmgr", "notes");
        files.Rename(@"\Boot", "Old");
    }

    private static object Essence(Partition partition) => (
        partition.Number,
        partition.Range,
        partition.MbrType,
        partition.GptType,
        partition.Id,
        partition.Active);

    private static void Damage(Practice practice, string damage)
    {
        var path = practice.Path;
        practice.Machine.Dispose();
        if (damage == "grown") using (var file = File.OpenWrite(path)) file.SetLength(file.Length + (64 * 1024 * 1024));
        using (var disk = DiskFile.OpenForWriting(path)) Damage(disk, damage);
        practice.Reopen();
    }

    private static void Damage(DiskFile disk, string damage)
    {
        var last = disk.LengthBytes - Sector;
        switch (damage)
        {
            case "sector 0":
                disk.Write(0, new byte[2 * Sector]);
                break;
            case "first MiB" or "grown":
                disk.Write(0, new byte[1024 * 1024]);
                break;
            case "table":
                disk.Write(446, new byte[66]);
                break;
            case "letters":
                disk.Write(0, [.. Enumerable.Repeat((byte)'k', 2 * Sector)]);
                break;
            case "boot sector":
                disk.Write(0, disk.ReadBytes(1024 * 1024, Sector));
                break;
            case "both headers":
                disk.Write(Sector, new byte[Sector]);
                disk.Write(last, new byte[Sector]);
                break;
            case "both tables":
                disk.Write(Sector, new byte[33 * Sector]);
                disk.Write(last - (32 * Sector), new byte[33 * Sector]);
                break;
            default:
                Delete(disk, damage[^1] - '0');
                break;
        }
    }

    private static void Delete(DiskFile disk, int number)
    {
        if (DiskLayout.Read(disk).Scheme == PartitionScheme.Gpt)
        {
            GptEditor.SetType(disk, number, Guid.Empty).ShouldBe(GptEditResult.Done);
            return;
        }

        var record = new MasterBootRecord(disk.ReadBytes(0, Sector));
        record.ClearSlot(number - 1);
        disk.Write(0, record.ToBytes());
    }
}
