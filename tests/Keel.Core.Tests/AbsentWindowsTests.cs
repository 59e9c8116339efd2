using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Requests;
using Keel.Core.Store;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>
/// Entries that lead to a disk or a Windows that is not here are left alone; the ones that are here have their own.
/// </summary>
public sealed class AbsentWindowsTests
{
    private const uint Absent = 0x0C10DE00;

    [Theory]
    [InlineData(FirmwareKind.Bios)]
    [InlineData(FirmwareKind.Uefi)]
    public void The_preferred_entry_of_an_absent_disk_gives_way_to_the_only_sound_one(FirmwareKind firmware)
    {
        using var scratch = new Scratch();
        var disk = Made(scratch, firmware, (store, second) =>
        {
            Away(second, sameByte: false);
            StoreEditing.Prefer(store, second);
        });
        var second = Second(disk);
        using var machine = Machine.Open(disk);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Before.Verdict.ShouldBe(Verdict.Broken);
        plan.Steps.ShouldHaveSingleItem().Summary.Id.ShouldBe("step.prefer-other");
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        var store = machine.Store.Store!;
        store.Entry(second.Id)!.Device(Element.WindowsVolume)!.Raw.ShouldBe(second.Device(Element.WindowsVolume)!.Raw);
        store.WindowsEntries.Count.ShouldBe(2);
    }

    /// <summary>Also where the absent disk had the same layout as this one.</summary>
    [Fact]
    public void An_absent_disk_of_the_same_layout_is_absent_all_the_same()
    {
        using var scratch = new Scratch();
        var disk = Made(scratch, FirmwareKind.Bios, (store, second) =>
        {
            Away(second, sameByte: true);
            StoreEditing.Prefer(store, second);
        });
        using var machine = Machine.Open(disk);
        Plan.For(machine, RepairTerms.Usual).Steps.ShouldHaveSingleItem().Summary.Id.ShouldBe("step.prefer-other");
    }

    [Fact]
    public void An_absent_disk_is_named_where_nothing_else_is_sound()
    {
        using var scratch = new Scratch();
        var disk = Made(scratch, FirmwareKind.Bios, (store, second) =>
        {
            Away(second, sameByte: false);
            StoreEditing.Prefer(store, second);
            foreach (var entry in store.WindowsEntries.Where(entry => entry.Id != second.Id)) entry.Remove(Element.ProgramFile);
        });
        using var machine = Machine.Open(disk);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Steps.ShouldBeEmpty();
        plan.Refused.ShouldContain(refusal => refusal.Why.Id == "left.entry-elsewhere");
    }

    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void A_clone_takes_its_own_entry_along_and_leaves_that_of_a_deleted_windows(bool deletedFirst)
    {
        using var scratch = new Scratch();
        var disk = Made(scratch, FirmwareKind.Bios, (store, second) =>
        {
            second.Set(Element.WindowsVolume, Elsewhere(0xB4AC0042, 999_424_000));
            second.Set(Element.ProgramVolume, Elsewhere(0xB4AC0042, 999_424_000));
            if (deletedFirst) StoreEditing.Prefer(store, second);
        });
        PracticeDisk.Change(disk, machine => BootCodeRequests.Sign(machine, 0x11112222));
        using var machine = Machine.Open(disk);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        var store = machine.Store.Store!;
        machine.VolumeOf(store.Entry(Second(disk).Id)!.Device(Element.WindowsVolume)).ShouldBeNull();
        store.WindowsEntries.Count(entry => machine.VolumeOf(entry.Device(Element.WindowsVolume)) is not null).ShouldBe(1);
    }

    /// <summary>Two entries for one Windows, as with safe start, go to the clone together.</summary>
    [Fact]
    public void Both_entries_of_a_cloned_windows_go_along()
    {
        using var scratch = new Scratch();
        var disk = Made(scratch, FirmwareKind.Bios, (_, _) => { });
        PracticeDisk.Change(disk, machine => BootCodeRequests.Sign(machine, 0x11112222));
        using var machine = Machine.Open(disk);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        machine.Store.Store!.WindowsEntries.ShouldAllBe(entry => EntryFit.IsSound(machine, entry));
    }

    /// <summary>The folder of a second Windows was deleted: its entry is not bent to the first one.</summary>
    [Fact]
    public void A_deleted_second_windows_gives_way_too()
    {
        using var scratch = new Scratch();
        var disk = Made(scratch, FirmwareKind.Bios, (store, second) =>
        {
            second.Set(Element.WindowsFolder, @"\Windows.two");
            second.Set(Element.ProgramFile, @"\Windows.two\System32\winload.exe");
            StoreEditing.Prefer(store, second);
        });
        using var machine = Machine.Open(disk);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Steps.ShouldHaveSingleItem().Summary.Id.ShouldBe("step.prefer-other");
        machine.Store.Store!.Entry(Second(disk).Id)!.Text(Element.WindowsFolder).ShouldBe(@"\Windows.two");
    }

    private static void Away(BootEntry entry, bool sameByte)
    {
        foreach (var element in (uint[])[Element.WindowsVolume, Element.ProgramVolume])
            entry.Set(element, Elsewhere(Absent, sameByte ? entry.Device(element)!.StartBytes!.Value : 777_216_000));
    }

    private static BootDevice Elsewhere(uint signature, long start) => BootDevice.Of(
        DiskIdentity.OfMbr(signature),
        new Partition(2, new Keel.Core.Blocks.ByteRange(start, 1 << 20), 7, default, default, false, false, ""));

    private static BootEntry Second(string disk)
    {
        using var machine = Machine.Open(disk);
        return machine.Store.Store!.WindowsEntries.Single(entry => entry.Title == "Second");
    }

    /// <summary>A practice disk whose store has a second Windows entry, a copy of the first.</summary>
    private static string Made(Scratch scratch, FirmwareKind firmware, Action<BootStore, BootEntry> change)
    {
        var disk = scratch["disk.img"];
        PracticeImage.Make(disk, new PracticeSpec { Firmware = firmware }, Faults.Find("none"));
        PracticeDisk.Change(disk, machine =>
        {
            var store = machine.Store.Store!;
            var second = StoreEditing.AddLike(
                store, store.WindowsEntries[0], Guid.Parse("5ec0d000-0000-4000-8000-000000000002"), "Second");
            second.Set(Element.Title, "Second");
            store.Manager!.Set(Element.MenuOrder, [.. store.Manager.References(Element.MenuOrder), second.Id]);
            change(store, second);
            var (bytes, path) = (store.ToBytes(), machine.BootFiles.StorePath);
            machine.SystemVolume!.Edit(files => files.WriteFile(path, bytes));
        });
        return disk;
    }
}
