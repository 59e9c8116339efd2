using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Hives;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Volumes;
using Keel.Core.Windows;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>
/// Drivers and services in a SYSTEM hive: where their files are, which start type counts, and changes in place.
/// </summary>
public sealed class SystemHiveTests
{
    [Theory]
    [InlineData("", @"\Windows\System32\drivers\quay.sys")]
    [InlineData(@"System32\drivers\other.sys", @"\Windows\System32\drivers\other.sys")]
    [InlineData(@"\SystemRoot\System32\drivers\other.sys", @"\Windows\System32\drivers\other.sys")]
    [InlineData(@"\??\C:\Windows\quay.sys", @"\Windows\quay.sys")]
    [InlineData(@"\??\D:\Elsewhere\quay.sys", null)]
    [InlineData(@"%ProgramFiles%\quay.sys", null)]
    public void A_drivers_file_is_found_however_its_path_is_written(string imagePath, string? file) =>
        new WindowsService("quay", ServiceStart.Boot, null, 1, 3, "", imagePath, "").FileIn(@"\Windows").ShouldBe(file);

    [Theory]
    [InlineData(0, null, ServiceStart.Boot)]
    [InlineData(0, 3, ServiceStart.OnDemand)]
    [InlineData(3, 0, ServiceStart.Boot)]
    [InlineData(9, null, null)]
    public void The_overriding_start_type_counts(int start, int? overriding, ServiceStart? counts)
    {
        var root = new HiveNode("ROOT");
        var service = root.ChildOrNew("quay").Set(HiveValue.OfNumber("Start", (uint)start)).Set(HiveValue.OfNumber("Type", 1));
        if (overriding is { } number) service.ChildOrNew("StartOverride").Set(HiveValue.OfNumber("0", (uint)number));
        WindowsService.Of(Hive.Open(HiveWriter.Write(root)).Root.Find("quay")!).Effective.ShouldBe(counts);
    }

    [Theory]
    [InlineData(0)]
    [InlineData(100)]
    [InlineData(-1)]
    public void A_log_that_is_of_no_use_says_nothing_against_the_hive(int bytes)
    {
        using var practice = new Practice("system-hive-torn");
        const string hive = @"\Windows\System32\config\SYSTEM";
        practice.Edit(files =>
        {
            if (bytes < 0) files.CreateFolder(hive + ".LOG2");
            else files.WriteFile(hive + ".LOG2", new byte[bytes]);
        });
        SystemHive.Read(practice.Windows.Files!, hive).Condition.ShouldBe(SystemHiveCondition.Torn);
    }

    [Fact]
    public void An_empty_log_beside_a_dirty_store_throws_no_store_away()
    {
        using var practice = new Practice();
        var path = practice.Machine.Store.Path;
        practice.System.Edit(files =>
        {
            var store = files.ReadFile(path);
            var header = HiveHeader.TryRead(store)!;
            (header with { PrimarySequence = header.PrimarySequence + 1 }).Write(store);
            files.WriteFile(path, store);
            files.WriteFile(path + ".LOG", []);
        });
        var state = practice.Machine.Store;
        state.Store.ShouldNotBeNull().WindowsEntries.Count().ShouldBe(1);
        $"{state.Seen}".ShouldNotContain("argument");
    }

    [Fact]
    public async Task A_number_changed_in_place_is_all_that_changes()
    {
        using var scratch = new Scratch();
        var before = PracticeHives.System(new PracticeSpec(), []);
        var place = Hive.Open(before).Root.Find(@"ControlSet001\Services\storahci")!.PlaceOfNumber("Start")!.Value;
        var after = before.ToArray();
        BitConverter.TryWriteBytes(after.AsSpan((int)place), 4u);
        await File.WriteAllBytesAsync(scratch["SYSTEM"], after, TestContext.Current.CancellationToken);
        (await Tool.MustAgree(
            "reglookup",
            "-p",
            "/ControlSet001/Services/storahci/Start",
            scratch["SYSTEM"])).ShouldContain("0x00000004");
        Enumerable.Range(0, before.Length).Count(at => before[at] != after[at]).ShouldBe(1);
    }

    [Fact]
    public void Unreadable_blocks_of_a_start_file_are_a_finding_with_its_place()
    {
        using var scratch = new Scratch();
        PracticeImage.Make(scratch["disk"], new PracticeSpec(), Faults.Find("none"));
        long place;
        using (var machine = Machine.Open(scratch["disk"]))
        {
            var windows = machine.Installations[0].Volume;
            place = PlaceOf(machine, windows.Files!.OpenFile(@"\Windows\System32\winload.exe").ReadBytes(8192, 512));
        }

        using var failing = new Machine([new MachineDisk("failing", new FailingBlocks(DiskFile.Open(scratch["disk"]), place))]);
        var walk = Walk.Of(failing);
        var finding = walk.Findings.Single(found => found.Kind.Severity == Severity.Error);
        finding.Id.ShouldBe("loader-damaged");
        $"{finding.Seen}".ShouldContain("winload.exe");
        $"{finding.Seen}".ShouldContain($"byte {place}");
        Plan.For(failing, RepairTerms.Usual).After.Verdict.ShouldBe(Verdict.Sound);
    }

    [Fact]
    public void The_surface_of_every_start_file_is_read_when_asked()
    {
        using var scratch = new Scratch();
        PracticeImage.Make(scratch["disk"], new PracticeSpec(), Faults.Find("none"));
        long place;
        using (var machine = Machine.Open(scratch["disk"]))
            place = PlaceOf(
                machine,
                machine.Installations[0].Volume.Files!.OpenFile(@"\Windows\System32\config\SOFTWARE").ReadBytes(4096, 512));
        using var failing = new Machine([new MachineDisk("failing", new FailingBlocks(DiskFile.Open(scratch["disk"]), place))]);
        var told = new List<string>();
        failing.ScanStartFiles((path, number, count) => told.Add($"{number}/{count} {path}"));
        told.Count.ShouldBeGreaterThan(12);
        var finding = Walk.Of(failing).Findings.Single(found => found.Id == "start-file-unreadable");
        $"{finding.Seen}".ShouldContain(@"config\SOFTWARE, volume volume 2, atBytes 4096");
    }

    /// <summary>Where on the disk bytes that stand only there are.</summary>
    private static long PlaceOf(Machine machine, byte[] wanted)
    {
        var overlay = machine.StartDisk.Overlay;
        for (long at = 0; at < overlay.LengthBytes; at += 512)
        {
            if (overlay.ReadBytes(at, 512).AsSpan().SequenceEqual(wanted)) return at;
        }

        throw new InvalidOperationException("not found");
    }

    /// <summary>A disk with one sector that can't be read.</summary>
    private sealed class FailingBlocks(DiskFile disk, long place) : IReadableBlocks, IDisposable
    {
        public long LengthBytes => disk.LengthBytes;

        public int SectorBytes => disk.SectorBytes;

        public void Read(long offsetBytes, Span<byte> buffer)
        {
            if (place >= offsetBytes && place < offsetBytes + buffer.Length)
            {
                throw new UnreadableException(
                    $"The disk can't be read at byte {place}.",
                    "The system says: Input/output error.",
                    "Make an image first.");
            }

            disk.Read(offsetBytes, buffer);
        }

        public void Dispose() => disk.Dispose();
    }
}
