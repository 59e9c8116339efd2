using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Hives;
using Keel.Core.Mending;
using Keel.Core.Requests;
using Keel.Core.Volumes;
using Machine = Keel.Core.Machines.Machine;

namespace Keel.Core.Tests;

/// <summary>
/// Going back to a restore point: hives together and start files, byte for byte, and never to a state that is another's.
/// </summary>
public sealed class SnapshotRestoreTests
{
    private const string Config = @"\Windows\System32\config", System = $@"{Config}\SYSTEM", Software = $@"{Config}\SOFTWARE";
    private const string Driver = @"\Windows\System32\drivers\disk.sys";
    private static readonly DateTimeOffset Made = new(2026, 2, 27, 3, 0, 0, TimeSpan.Zero);

    [Fact]
    public void Hives_and_files_are_as_they_were_and_the_present_hives_stand_beside()
    {
        using var practice = new Practice();
        var then = Contents(practice, System, Software, Driver);
        practice.Change(machine => Since(machine, files =>
        {
            InstallProgram(files);
            AddService(files);
            files.Delete(Driver);
        }));
        var now = Contents(practice, System, Software);
        var plan = Restore(practice, RestoreScope.All);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        Contents(practice, System, Software, Driver).ShouldBe(then);
        Contents(practice, System + ".aside1", Software + ".aside1").ShouldBe(now);
        var said = plan.Steps[0].Details.ToLookup(
            line => line.Says.Id,
            line => line.Says.Facts.Get(Facts.Fact.Names),
            StringComparer.Ordinal);
        said["line.past-programs-forgotten"].Single().ShouldBe(["Tide tables 2026"]);
        said["line.past-services-forgotten"].Single().ShouldBe(["bilgepump"]);
        plan.Steps[0].Loss.ShouldBe(Loss.Settings);
        plan.Steps[1].Loss.ShouldBe(Loss.None);
    }

    [Theory]
    [InlineData(RestoreScope.Drivers)]
    [InlineData(RestoreScope.Hives)]
    public void Only_what_was_asked_for_changes(RestoreScope scope)
    {
        using var practice = new Practice();
        practice.Change(machine => Since(machine, files =>
        {
            AddService(files);
            files.Delete(Driver);
        }));
        var plan = Restore(practice, scope);
        plan.Steps.ShouldHaveSingleItem();
        practice.Windows.Files!.FileExists(Driver).ShouldBe(scope == RestoreScope.Drivers);
        practice.Windows.Files!.FileExists(System + ".aside1").ShouldBe(scope == RestoreScope.Hives);
    }

    [Theory]
    [InlineData("UBR", 77u)]
    [InlineData("InstallDate", 1_700_000_000u)]
    public void A_state_of_another_update_or_installation_is_refused(string value, uint number)
    {
        using var practice = new Practice();
        practice.ChangeWindows(files => Number(files, "InstallDate", 1_600_000_000u));
        practice.Change(machine => Since(machine, files => Number(files, value, number)));
        Should.Throw<RefusedException>(() => Restore(practice, RestoreScope.All));
    }

    [Fact]
    public void A_hive_that_is_not_whole_then_is_no_way_back()
    {
        using var practice = new Practice();
        practice.Change(machine =>
        {
            var sound = machine.Installations[0].Volume.Files!.ReadFile($@"{Config}\SAM");
            machine.Installations[0].Volume.Edit(files => files.WriteFile($@"{Config}\SAM", new byte[sound.Length]));
            Since(machine, files => files.WriteFile($@"{Config}\SAM", sound));
        });
        Should.Throw<UnreadableException>(() => Restore(practice, RestoreScope.All)).Why.ShouldContain("SAM");
    }

    [Fact]
    public void A_file_that_is_damaged_then_is_not_brought_back()
    {
        using var practice = new Practice();
        practice.Change(machine =>
        {
            var sound = machine.Installations[0].Volume.Files!.ReadFile(Driver);
            machine.Installations[0].Volume.Edit(files => files.WriteFile(Driver, new byte[sound.Length]));
            Since(machine, files => files.WriteFile(Driver, sound));
        });
        Should.Throw<UnreadableException>(() => Restore(practice, RestoreScope.Drivers)).What.ShouldContain("disk.sys");
    }

    [Fact]
    public void Nothing_is_planned_where_nothing_differs()
    {
        using var practice = new Practice();
        practice.Change(machine => Since(machine, files => files.WriteFile(@"\Users\purser\new.txt", "tides"u8)));
        Should.Throw<RefusedException>(() => Restore(practice, RestoreScope.All)).Why.ShouldContain("byte for byte");
        Should.Throw<WrongUsageException>(() =>
            SnapshotRequests.Restore(practice.Machine, practice.Machine.Installations[0], 2, RestoreScope.All));
    }

    private static Plan Restore(Practice practice, RestoreScope scope) =>
        SnapshotRequests.Restore(practice.Machine, practice.Machine.Installations[0], 1, scope);

    private static List<byte[]> Contents(Practice practice, params string[] paths) =>
        [.. paths.Select(path => practice.Windows.Files!.ReadFile(path))];

    private static void Since(Machine machine, Action<IVolume> happens)
    {
        var volume = machine.Installations[0].Volume;
        var snapshots = new PracticeSnapshots(volume, machine.StartDisk.Overlay);
        snapshots.Before(Made, () => volume.Edit(happens));
        snapshots.Write();
    }

    private static void InstallProgram(IVolume files) => Hive(files, Software, root => Below(
        root,
        @"Microsoft\Windows\CurrentVersion\Uninstall\{b4ac}").Set(HiveValue.OfText("DisplayName", "Tide tables 2026")));

    private static void AddService(IVolume files) => Hive(files, System, root => Below(root, @"ControlSet001\Services\bilgepump")
        .Set(HiveValue.OfNumber("Start", 3))
        .Set(HiveValue.OfNumber("Type", 16)));

    private static void Number(IVolume files, string value, uint number) => Hive(files, Software, root => Below(
        root,
        @"Microsoft\Windows NT\CurrentVersion").Set(HiveValue.OfNumber(value, number)));

    private static HiveNode Below(HiveNode root, string path) =>
        path.Split('\\').Aggregate(root, (node, name) => node.ChildOrNew(name));

    private static void Hive(IVolume files, string path, Action<HiveNode> change)
    {
        var root = Hives.Hive.Open(files.ReadFile(path)).ReadTree();
        change(root);
        files.WriteFile(path, HiveWriter.Write(root, PracticeHives.HiveMinorVersion));
    }
}
