using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Requests;
using Keel.Core.Rescue;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>
/// Chains of logical partitions that other programs made, broken in every place, judged by the program that made them.
/// </summary>
public sealed class LogicalChainTests
{
    private const int Sector = 512;
    private const string Volumes = "661504,8192,7\n+,12288,1\n+,16384,7\n";

    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    [InlineData(2)]
    public async Task A_link_that_is_gone_is_written_anew(int number)
    {
        using var practice = await WithLogicalOnes();
        var links = await Links(practice.Path);
        var before = await Dump(practice.Path);
        await Change(practice, disk => disk.Write(links[number] * Sector, new byte[Sector]));
        practice.Machine.StartDisk.Layout.Has(LayoutProblemKind.LogicalChainDamaged).ShouldBeTrue();

        Plan.For(practice.Machine, RepairTerms.Usual).After.Verdict.ShouldBe(Verdict.Sound);

        await Carry(practice);
        (await Dump(practice.Path)).ShouldBe(before);
    }

    [Fact]
    public async Task An_extended_partition_that_is_gone_is_found_by_its_links()
    {
        using var practice = await WithLogicalOnes();
        var before = await Dump(practice.Path);
        await Change(practice, disk =>
        {
            var record = new MasterBootRecord(disk.ReadBytes(0, Sector));
            record.ClearSlot(2);
            disk.Write(0, record.ToBytes());
        });
        var disk = practice.Machine.StartDisk;
        var reading = TableRescue.Readings(disk, disk.QuickSearch(), Guid.NewGuid).ShouldHaveSingleItem();
        TableRequests.Rescue(practice.Machine, reading).Steps.ShouldHaveSingleItem();
        await Carry(practice);

        // The extended partition may be smaller: nothing tells how much free space it had at its end.
        (await Dump(practice.Path)).Where(line => !line.Contains("type=f"))
            .ShouldBe(before.Where(line => !line.Contains("type=5")));
    }

    [Fact]
    public async Task With_the_first_sector_gone_too_everything_is_found()
    {
        using var practice = await WithLogicalOnes();
        var links = await Links(practice.Path);
        var before = await Dump(practice.Path);
        await Change(practice, disk =>
        {
            disk.Write(0, new byte[Sector]);
            disk.Write(links[1] * Sector, new byte[Sector]);
        });
        Plan.For(practice.Machine, RepairTerms.Usual).After.Verdict.ShouldBe(Verdict.Sound);
        await Carry(practice);
        (await Dump(practice.Path)).Where(line => !line.Contains("type=f"))
            .ShouldBe(before.Where(line => !line.Contains("type=5")));
    }

    [Fact]
    public async Task The_type_of_a_logical_partition_stands_in_its_link()
    {
        using var practice = await WithLogicalOnes();
        TableRequests.SetType(practice.Machine, number: 6, mbrType: 0x06, gptType: null).Steps.ShouldHaveSingleItem();
        await Carry(practice);
        (await Dump(practice.Path)).ShouldContain(line => line.Contains("disk6") && line.Contains("type=6"));
    }

    /// <summary>The practice disk, grown, with three logical volumes behind its own.</summary>
    private static async Task<Practice> WithLogicalOnes()
    {
        var practice = new Practice();
        practice.Machine.Dispose();
        using (var file = File.OpenWrite(practice.Path)) file.SetLength(400L * 1024 * 1024);
        await Sfdisk(practice.Path, "657408,,5\n");
        await Sfdisk(practice.Path, Volumes);
        foreach (var (first, sectors, isFat) in await Places(practice.Path)) await Format(practice, first, sectors, isFat);
        practice.Reopen();
        practice.Machine.StartDisk.Layout.Problems.ShouldBeEmpty();
        return practice;
    }

    private static Task Sfdisk(string path, string lines) =>
        Tool.MustAgree("sh", "-c", $"printf '{lines}' | PATH=$PATH:/sbin:/usr/sbin sfdisk -q --append {path}");

    private static async Task<List<(long First, long Sectors, bool IsFat)>> Places(string path) =>
        [.. (await Dump(path)).Skip(3).Select(line => (Field(line, "start="), Field(line, "size="), line.Contains("type=1")))];

    private static long Field(string line, string name) =>
        long.Parse(line[(line.IndexOf(name, StringComparison.Ordinal) + name.Length)..].Split(',')[0].Trim());

    private static async Task Format(Practice practice, long first, long sectors, bool isFat)
    {
        var part = Path.Combine(practice.Folder, "part");
        using (var file = File.Create(part)) file.SetLength(sectors * Sector);
        if (isFat)
            await Tool.MustAgree("mkfs.fat", "-h", $"{first}", part);
        else
            await Tool.MustAgree("mkntfs", "-q", "-F", "-p", $"{first}", "-H", "255", "-S", "63", "-s", "512", part);
        using var disk = DiskFile.OpenForWriting(practice.Path);
        disk.Write(first * Sector, await File.ReadAllBytesAsync(part, TestContext.Current.CancellationToken));
    }

    /// <summary>The sectors of the links, in their order.</summary>
    private static async Task<List<long>> Links(string path)
    {
        var places = await Places(path);
        using var disk = DiskFile.Open(path);
        return [.. places.Select(place => LogicalLink.Before(disk, place.First)!.Value.Sector)];
    }

    private static async Task<List<string>> Dump(string path) =>
        [.. (await Tool.MustAgree("sfdisk", "-d", path)).Split('\n').Where(line => line.Contains("start=")).Select(Plain)];

    /// <summary>A line without the folder of this run.</summary>
    private static string Plain(string line) => "disk" + line[(line.IndexOf(".img", StringComparison.Ordinal) + 4)..];

    private static Task Change(Practice practice, Action<DiskFile> change)
    {
        practice.Machine.Dispose();
        using (var disk = DiskFile.OpenForWriting(practice.Path)) change(disk);
        practice.Reopen();
        return Task.CompletedTask;
    }

    /// <summary>Writes what the overlay holds to the disk.</summary>
    private static Task Carry(Practice practice)
    {
        var changes = practice.Machine.StartDisk.Overlay.Changes();
        var written = changes.Ranges.Select(range => (range.Range, practice.Machine.StartDisk.Overlay.ReadBytes(
            range.Range.Start,
            (int)range.Range.Length))).ToList();
        return Change(practice, disk =>
        {
            foreach (var (range, bytes) in written) disk.Write(range.Start, bytes);
        });
    }
}
