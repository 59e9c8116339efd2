using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>What was read of a machine is given up when a byte changes, and is kept while none does.</summary>
public sealed class MachineViewTests
{
    private const int DiskBytes = 1024 * 1024;

    [Fact]
    public void A_change_is_seen_at_once_and_going_back_too()
    {
        using var scratch = new Scratch();
        using var machine = Open(scratch, "none");
        var before = machine.Store.Store!;
        machine.Store.Store.ShouldBeSameAs(before);
        var saved = machine.Save();

        machine.SystemVolume!.Edit(files => files.Delete(machine.BootFiles.StorePath));
        machine.Store.Condition.ShouldBe(StoreCondition.Missing);
        Walk.Of(machine).StopsAt.ShouldBe(Link.Store);

        machine.Restore(saved);
        machine.Store.Condition.ShouldBe(StoreCondition.Loaded);
        Walk.Of(machine).Verdict.ShouldBe(Verdict.Sound);
    }

    [Fact]
    public void A_program_is_read_again_only_where_its_volume_changed()
    {
        using var scratch = new Scratch();
        using var machine = Open(scratch, "none");
        Walk.Of(machine);
        var windows = machine.Installations[0].Volume;
        var path = $@"{machine.Installations[0].Folder}\System32\ntoskrnl.exe";
        var seen = machine.Programs.Look(windows, windows.Files!, path);
        machine.SystemVolume!.Edit(files => files.WriteFile(@"\quay.txt", [1, 2, 3]));
        machine.Programs.Look(windows, windows.Files!, path).ShouldBeSameAs(seen);

        var volume = machine.Volumes.First(volume => volume.Number == windows.Number);
        volume.Edit(files => files.WriteFile(path, new byte[5000]));
        volume = machine.Volumes.First(volume => volume.Number == windows.Number);
        machine.Programs.Look(volume, volume.Files!, path).Condition.ShouldNotBe(seen.Condition);
    }

    [Fact]
    public void A_plan_begins_with_the_disk_as_it_is()
    {
        using var scratch = new Scratch();
        using var machine = Open(scratch, "store-missing");
        var first = Plan.For(machine, RepairTerms.Usual);
        machine.SystemVolume!.Edit(files => files.WriteFile(@"\stray.txt", [1]));
        var second = Plan.For(machine, RepairTerms.Usual);
        second.Before.StopsAt.ShouldBe(first.Before.StopsAt);
        second.Steps.Count.ShouldBe(first.Steps.Count);
        machine.SystemVolume!.Files!.Find(@"\stray.txt").ShouldBeNull();
    }

    [Fact]
    public void An_overlay_tells_every_range_before_it_changes_and_none_where_nothing_does()
    {
        var overlay = new Overlay(new MemoryBlocks(new byte[DiskBytes]));
        var told = new List<ByteRange>();
        overlay.Changing += told.Add;
        overlay.Write(5000, new byte[10]);
        told.ShouldBe([new ByteRange(5000, 10)]);
        var saved = overlay.Save();
        overlay.Write(5000, [1]);
        overlay.Write(8192, [2]);
        overlay.Write(500_000, [3]);
        told.Clear();

        overlay.Restore(saved);
        told.ShouldBe([new ByteRange(4096, 8192), new ByteRange(499_712, 4096)]);
        told.Clear();
        overlay.Restore(saved);
        overlay.Write(0, []);
        told.ShouldBeEmpty();
    }

    private static Machine Open(Scratch scratch, string fault)
    {
        var path = scratch["machine.img"];
        PracticeImage.Make(path, new PracticeSpec(), Faults.Find(fault));
        return Machine.Open(path);
    }
}
