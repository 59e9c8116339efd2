using CsCheck;
using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Programs;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Snapshots;
using Keel.Core.Windows;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Older states of a volume: read as others read them, used where nothing else helps, and never in the way.</summary>
public sealed class SnapshotTests
{
    private const string Hive = @"\Windows\System32\config\SYSTEM", Software = @"\Windows\System32\config\SOFTWARE";
    private const string Null = @"\Windows\System32\drivers\null.sys";

    [Fact]
    public void The_youngest_comes_first_with_time_and_cause()
    {
        using var practice = new Practice("system-hive-snapshot");
        using var snapshots = practice.Windows.OpenSnapshots()!;
        snapshots.List.Select(one => (one.Number, one.Made.Day, one.Cause)).ShouldBe(
            [(1, 27, SnapshotCause.RestorePoint), (2, 18, SnapshotCause.RestorePoint)]);
        snapshots.List.ShouldAllBe(one => one.VolumeBytes == practice.Windows.Blocks.LengthBytes);
    }

    [Fact]
    public void Each_shows_the_files_of_its_time()
    {
        using var practice = new Practice("system-hive-snapshot");
        using var snapshots = practice.Windows.OpenSnapshots()!;
        Version? VersionIn(int number) =>
            ProgramFile.VersionOf(snapshots.Files(snapshots.List[number - 1]).OpenFile(Null));
        VersionIn(2).ShouldBe(new Version(10, 0, 19045, 1));
        VersionIn(1).ShouldBe(new Version(10, 0, 19045, 2));
        snapshots.List.ShouldAllBe(one => SystemHive.Read(snapshots.Files(one), Hive).Condition == SystemHiveCondition.Sound);
        SystemHive.Read(practice.Windows.Files!, Hive).Condition.ShouldBe(SystemHiveCondition.Damaged);
    }

    [Fact]
    public async Task Another_reader_lists_the_same_and_reads_the_same_bytes()
    {
        using var practice = new Practice("driver-snapshot");
        using var scratch = new Scratch();
        using var snapshots = practice.Windows.OpenSnapshots()!;
        var (start, length) = (practice.Windows.Partition.Range.Start, practice.Windows.Blocks.LengthBytes);
        var listed = await Tool.MustAgree("vshadowinfo", "-o", $"{start}", practice.Path);
        listed.ShouldContain("Number of stores:\t2");
        foreach (var one in snapshots.List) listed.ShouldContain($"{one.Id}");
        const string script = """
            import pyvshadow, sys
            class Part:
                def __init__(self, path, start, length):
                    self.file, self.start, self.length, self.at = open(path, "rb"), start, length, 0
                def read(self, count):
                    self.file.seek(self.start + self.at)
                    data = self.file.read(min(count, self.length - self.at))
                    self.at += len(data)
                    return data
                def seek(self, at, whence=0):
                    self.at = at if whence == 0 else self.at + at if whence == 1 else self.length + at
                def tell(self): return self.at
                def get_size(self): return self.length
            volume = pyvshadow.volume()
            volume.open_file_object(Part(sys.argv[1], int(sys.argv[2]), int(sys.argv[3])))
            for number in range(volume.number_of_stores):
                store = volume.get_store(number)
                open(sys.argv[4] + str(number), "wb").write(store.read_buffer_at_offset(store.volume_size, 0))
            """;
        await Tool.MustAgree("/usr/bin/python3", "-c", script, practice.Path, $"{start}", $"{length}", scratch["read"]);
        foreach (var one in snapshots.List)
        {
            var read = scratch[$"read{2 - one.Number}"];
            await Tool.MustAgree("ntfsfix", "-n", read);
            var (_, version, _) = await Tool.Run("ntfscat", "-f", read, Null.Replace('\\', '/'));
            version.Length.ShouldBeGreaterThan(1000);
            var taken = scratch[$"null{one.Number}"];
            new FileTaking(snapshots.Files(one), (_, _) => { }).Take(Null, taken);
            ContainsFile(await File.ReadAllBytesAsync(read), await File.ReadAllBytesAsync(taken)).ShouldBeTrue();
        }
    }

    [Theory]
    [InlineData("system-hive-snapshot", "step.hive-from-snapshot", 27)]
    [InlineData("software-hive-snapshot", "step.hive-from-snapshot", 18)]
    [InlineData("driver-snapshot", "step.program-from-snapshot", 27)]
    public void What_no_copy_mends_comes_from_the_youngest_in_which_it_is_sound(string fault, string step, int day)
    {
        using var practice = new Practice(fault);
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        var made = plan.Steps.ShouldHaveSingleItem();
        made.Summary.Id.ShouldBe(step);
        made.Details.Select(detail => detail.Says).Append(made.Summary)
            .Any(remark => remark.Facts.Get(Fact.Written).Day == day).ShouldBeTrue();
    }

    [Fact]
    public void A_kept_copy_that_is_younger_goes_first()
    {
        using var practice = new Practice("software-hive-snapshot");
        var sound = OlderStates.Youngest(
            practice.Windows,
            files => HiveCopies.TryRead(files, Software),
            out _)!.Value.Found;
        practice.ChangeWindows(files => files.WriteFile(@"\Windows\System32\config\RegBack\SOFTWARE", sound));
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Steps.ShouldHaveSingleItem().Summary.Id.ShouldBe("step.hive-from-backup");
        plan.After.Verdict.ShouldBe(Verdict.Sound);
    }

    [Fact]
    public void A_lost_store_keeps_the_titles_that_a_snapshot_has()
    {
        using var practice = new Practice();
        practice.Change(machine =>
        {
            var volume = machine.SystemVolume!;
            var snapshots = new PracticeSnapshots(volume, machine.StartDisk.Overlay);
            StoreFaults.EditStore(machine, store =>
                store.WindowsEntries[0].Set(Element.Title, "Ticket office, till 4"));
            snapshots.Before(new DateTimeOffset(2026, 2, 20, 0, 0, 0, TimeSpan.Zero), () => volume.Edit(files =>
                files.WriteFile(@"\Boot\BCD", new byte[32 * 1024])));
            snapshots.Write();
        });
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        plan.Steps[0].Details.ShouldContain(detail => detail.Says.Id == "line.store-from-snapshot");
        practice.Machine.Store.Store!.WindowsEntries.First().Title.ShouldBe("Ticket office, till 4");
    }

    [Fact]
    public void Boot_code_is_written_around_their_head_and_is_known_beside_it()
    {
        using var practice = new Practice();
        practice.Change(machine =>
        {
            var volume = machine.SystemVolume!;
            var snapshots = new PracticeSnapshots(volume, machine.StartDisk.Overlay);
            snapshots.Before(DateTimeOffset.UnixEpoch, () => volume.Edit(files => files.WriteFile(@"\noted.txt", [1, 2, 3])));
            snapshots.Write();
        });
        Plan.For(practice.Machine, RepairTerms.Usual).Before.Verdict.ShouldBe(Verdict.Sound);
        practice.Change(machine => machine.SystemVolume!.Blocks.Write(0x54, new byte[0x1AA]));
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        BootSectorCopy.Recognize(practice.System.Blocks, practice.System.Kind)!.Owner.ShouldBe(CodeOwner.Keel);
        practice.System.OpenSnapshots()!.List.Count.ShouldBe(1);
    }

    [Theory]
    [InlineData(0, 48, 0x7FFF_FFFF_0000)]           // the head leads outside the volume
    [InlineData(1, 40, -1)]                         // the catalog goes on at itself
    [InlineData(1, 20, 5)]                          // the catalog is another kind of block
    [InlineData(1, 264, 0x7FFF_FFFF_0000)]          // a list lies outside the volume
    [InlineData(1, 264, -2)]                        // a list lies at the head
    public void A_damaged_catalog_or_list_is_told_and_costs_nothing_else(int block, int at, long value)
    {
        using var practice = new Practice("system-hive-snapshot");
        practice.Change(machine =>
        {
            var blocks = machine.Installations[0].Volume.Blocks;
            var catalog = SnapshotChains.CatalogOf(blocks)!.Value;
            var start = block == 0 ? SnapshotHeadRecord.At : catalog;
            blocks.Write(start + at, BitConverter.GetBytes(value == -1 ? catalog : value == -2 ? SnapshotHeadRecord.At : value));
        });
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Before.Verdict.ShouldBe(Verdict.Broken);
        plan.Steps.ShouldBeEmpty();
        plan.Refused.ShouldHaveSingleItem().Why.Id.ShouldBe("left.snapshots-unread");
    }

    [Fact]
    public void A_list_that_goes_in_a_circle_ends()
    {
        using var practice = new Practice("system-hive-snapshot");
        practice.Change(machine =>
        {
            var blocks = machine.Installations[0].Volume.Blocks;
            var chains = new SnapshotChains(blocks);
            var list = chains.Catalog(SnapshotChains.CatalogOf(blocks)!.Value)[0].BlockListAt;
            blocks.Write(list + 40, BitConverter.GetBytes(list));
        });
        OlderStates.Youngest(practice.Windows, files => files, out var problem).ShouldBeNull();
        problem!.Why.ShouldContain("circle");
    }

    [Fact]
    public void Hostile_bytes_give_errors_of_keels_own()
    {
        using var practice = new Practice("driver-snapshot");
        var blocks = practice.Windows.Blocks;
        var catalog = SnapshotChains.CatalogOf(blocks)!.Value;
        var places = new SnapshotChains(blocks).Catalog(catalog);
        long[] starts =
        [
            SnapshotHeadRecord.At, catalog, places[0].BlockListAt, places[1].BlockListAt, places[0].InformationAt,
            places[0].RangeListAt, places[1].BitmapAt
        ];
        var gen = Gen.Select(Gen.Int[0, starts.Length - 1], Gen.Int[0, 511], Gen.ULong, Gen.Int[1, 8]);
        gen.Sample(
            (start, at, value, length) =>
            {
                var overlay = new Overlay(blocks);
                overlay.Write(starts[start] + at, BitConverter.GetBytes(value).AsSpan(0, length));
                try
                {
                    using var snapshots = VolumeSnapshots.Open(overlay, "volume 2");
                    foreach (var one in snapshots?.List ?? [])
                    {
                        var files = snapshots!.Files(one);
                        foreach (var file in files.List(@"\Windows\System32\drivers").Where(file => !file.IsFolder))
                            _ = files.ReadFile($@"\Windows\System32\drivers\{file.Name}");
                    }
                }
                catch (KeelException)
                {
                    // said, and that is all
                }
            },
            iter: 400,
            threads: 1);
    }

    private static bool ContainsFile(byte[] volume, byte[] file) => volume.AsSpan().IndexOf(file.AsSpan(0, 4096)) >= 0;
}
