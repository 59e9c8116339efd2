using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Drills;
using Keel.Core.Facts;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>
/// Where volumes are: found by their own boot sectors, put right in a table by them, and the letters that Windows gives them.
/// </summary>
public sealed class VolumePlacesTests
{
    private const int Sector = 512;

    [Fact]
    public void File_systems_are_found_where_no_table_names_them()
    {
        using var scratch = new Scratch();
        var path = Practice(scratch);
        using var machine = Machine.Open(path);
        var ranges = machine.Volumes.Select(volume => volume.Partition.Range).ToList();
        using var disk = DiskFile.Open(path);
        LostVolumes.Outside(disk, []).ShouldBe(ranges.Where(range => range.Start % (2048 * Sector) == 0));
        LostVolumes.Outside(disk, ranges).ShouldBeEmpty();
        LostVolumes.Outside(disk, [ranges[0]]).ShouldBe(ranges.Skip(1).Where(range => range.Start % (2048 * Sector) == 0));
    }

    [Theory]
    [InlineData(-1)]
    [InlineData(1)]
    [InlineData(2048)]
    public void A_boot_sector_that_names_another_place_is_none_of_this_place(int offsetSectors)
    {
        using var scratch = new Scratch();
        var path = Practice(scratch);
        long start;
        using (var machine = Machine.Open(path)) start = machine.Volumes.First().Partition.Range.Start;
        using var disk = DiskFile.OpenForWriting(path);
        LostVolumes.At(disk, start).ShouldNotBeNull();
        var sector = disk.ReadBytes(start, Sector);
        BitConverter.TryWriteBytes(sector.AsSpan(0x1C), (uint)((start / Sector) + offsetSectors));
        disk.Write(start, sector);
        LostVolumes.At(disk, start).ShouldBeNull();
    }

    [Theory]
    [InlineData(0L)]
    [InlineData(-1L)]
    [InlineData(long.MaxValue)]
    [InlineData(1L << 40)]
    public void A_volume_longer_than_the_disk_or_shorter_than_nothing_is_none(long totalSectors)
    {
        using var scratch = new Scratch();
        var path = Practice(scratch);
        long start;
        using (var machine = Machine.Open(path)) start = machine.Volumes.Last().Partition.Range.Start;
        using var disk = DiskFile.OpenForWriting(path);
        var sector = disk.ReadBytes(start, Sector);
        BitConverter.TryWriteBytes(sector.AsSpan(0x28), totalSectors);
        disk.Write(start, sector);
        LostVolumes.At(disk, start).ShouldBeNull();
    }

    [Fact]
    public void A_slot_that_is_too_long_gets_the_length_that_its_file_system_has()
    {
        using var scratch = new Scratch();
        var path = Practice(scratch);
        PartitionSlot before;
        using (var disk = DiskFile.OpenForWriting(path))
        {
            var record = new MasterBootRecord(disk.ReadBytes(0, Sector));
            before = record.Slot(1);
            record.SetSlot(1, before with { SectorCount = uint.MaxValue - before.FirstSector });
            disk.Write(0, record.ToBytes());
        }

        using var machine = Machine.Open(path);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Findings.Select(finding => finding.Id).ShouldContain("table-past-end");
        plan.Findings.First(finding => finding.Id == "table-past-end").Seen.Facts.Get(Fact.Partition).ShouldBe(2);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        var line = plan.Steps.Single().Details.Single().Says;
        line.Id.ShouldBe("line.partition-moves");
        (line.Facts.Get(Fact.NumberBefore), line.Facts.Get(Fact.NumberAfter)).ShouldBe((before.FirstSector, before.FirstSector));
        line.Facts.Get(Fact.SectorsAfter).ShouldBeLessThanOrEqualTo(before.SectorCount);
        new MasterBootRecord(machine.StartDisk.Overlay.ReadBytes(0, Sector)).Slot(1).FirstSector.ShouldBe(before.FirstSector);
    }

    [Fact]
    public void Letters_are_those_that_the_hive_gives_to_this_very_place()
    {
        using var scratch = new Scratch();
        var path = Practice(scratch);
        using (var machine = Machine.Open(path))
        {
            var windows = machine.Installations[0].Volume;
            machine.Letters!.LetterOf(windows).ShouldBe("C:");
        }

        // The same disk with another signature is not the one that the letter was given on.
        using (var disk = DiskFile.OpenForWriting(path))
        {
            var record = new MasterBootRecord(disk.ReadBytes(0, Sector)) { Signature = 0x12345678 };
            disk.Write(0, record.ToBytes());
        }

        using var other = Machine.Open(path);
        other.Letters!.LetterOf(other.Installations[0].Volume).ShouldBeNull();
    }

    private static string Practice(Scratch scratch)
    {
        PracticeImage.Make(scratch["disk"], new PracticeSpec(), Faults.Find("none"));
        return scratch["disk"];
    }
}
