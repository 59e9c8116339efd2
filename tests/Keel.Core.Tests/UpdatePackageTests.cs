using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Hives;
using Keel.Core.Volumes;
using Keel.Core.Windows.Updates;

namespace Keel.Core.Tests;

/// <summary>The updates that the SOFTWARE hive keeps: states, numbers, times; and hives that have none, or nonsense.</summary>
public sealed class UpdatePackageTests
{
    private const string Software = @"\Windows\System32\config\SOFTWARE";
    private const string Packages = @"Microsoft\Windows\CurrentVersion\Component Based Servicing\Packages";

    public static readonly TheoryData<uint, UpdateState, bool> States = new(
    [
        (0x70, UpdateState.Installed, false),
        (0x80, UpdateState.Installed, false),
        (0x60, UpdateState.InstallPending, true),
        (0x05, UpdateState.RemovalPending, true),
        (0x50, UpdateState.Superseded, false),
        (0x40, UpdateState.Staged, false),
        (0x30, UpdateState.Staging, false),
        (0x65, UpdateState.Partial, false),
        (0x99, UpdateState.Other, false)
    ]);

    [Theory, MemberData(nameof(States))]
    public void A_state_is_told(uint number, UpdateState state, bool isPending)
    {
        var update = Read(root => Add(root, "Package_for_KB5034441~31bf3856ad364e35~amd64~~19041.3920.1.0", number))
            .ShouldHaveSingleItem();
        (update.State, update.StateNumber, update.IsPending).ShouldBe((state, number, isPending));
        update.Article.ShouldBe("KB5034441");
        update.Title.ShouldBe("KB5034441 19041.3920.1.0");
    }

    [Fact]
    public void The_youngest_comes_first_and_a_number_may_stand_in_the_place_it_came_from()
    {
        var updates = Read(root =>
        {
            Add(root, "Package_for_KB5011048~31bf3856ad364e35~amd64~~10.0.9200.2", 0x70, new DateTime(2025, 1, 2));
            Add(root, "Package_for_RollupFix~31bf3856ad364e35~amd64~~19041.4046.1.6", 0x70, new DateTime(2026, 2, 14))
                .Set(HiveValue.OfText("InstallLocation", @"\\?\C:\Windows\Temp\windows10.0-kb5034763-x64\"))
                .Set(HiveValue.OfNumber("LastError", 0x800F0922));
            Add(root, "Package_for_ServicingStack~31bf3856ad364e35~amd64~~19041.1.0.0", 0x50);
            Add(root, "Microsoft-Windows-Foundation-Package~31bf3856ad364e35~amd64~~10.0.19041.1", 0x70);
        });
        updates.Select(update => update.Article).ShouldBe(["KB5034763", "KB5011048", null]);
        updates[0].Error.ShouldBe(0x800F0922);
        updates[0].Time.ShouldBe(new DateTimeOffset(2026, 2, 14, 0, 0, 0, TimeSpan.Zero));
        updates[2].Time.ShouldBeNull();
    }

    [Fact]
    public void What_is_odd_is_survived()
    {
        var updates = Read(root =>
        {
            Add(root, "Package_for_", 0x70).Set(HiveValue.OfText("CurrentState", "installed"));
            Add(root, "Package_for_KB~~~~", 0x70)
                .Set(HiveValue.OfNumber("InstallTimeHigh", uint.MaxValue))
                .Set(HiveValue.OfNumber("InstallTimeLow", uint.MaxValue));
        });
        updates.Count.ShouldBe(2);
        updates.ShouldAllBe(update => update.Time == null && update.Article == null);
        Read(_ => { }).ShouldBeEmpty();
        using var practice = new Practice();
        practice.ChangeWindows(files => files.WriteFile(Software, new byte[9_000]));
        Should.Throw<UnreadableException>(() => UpdatePackages.Read(practice.Windows.Files!, @"\Windows"));
        practice.ChangeWindows(files => files.Delete(Software));
        Should.Throw<UnreadableException>(() => UpdatePackages.Read(practice.Windows.Files!, @"\Windows"));
    }

    private static IReadOnlyList<UpdatePackage> Read(Action<HiveNode> change)
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
        {
            var root = Hive.Open(files.ReadFile(Software)).ReadTree();
            change(root);
            files.WriteFile(Software, HiveWriter.Write(root, PracticeHives.HiveMinorVersion));
        });
        return UpdatePackages.Read(practice.Windows.Files!, @"\Windows").Packages;
    }

    private static HiveNode Add(HiveNode root, string name, uint state, DateTime? time = null)
    {
        var key = Packages.Split('\\').Aggregate(root, (node, part) => node.ChildOrNew(part)).ChildOrNew(name)
            .Set(HiveValue.OfNumber("CurrentState", state));
        if (time is not { } made) return key;
        var ticks = new DateTimeOffset(made, TimeSpan.Zero).ToFileTime();
        return key
            .Set(HiveValue.OfNumber("InstallTimeHigh", (uint)(ticks >> 32)))
            .Set(HiveValue.OfNumber("InstallTimeLow", (uint)ticks));
    }
}
