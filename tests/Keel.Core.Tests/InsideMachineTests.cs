using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Disks;
using Keel.Core.Disks.Virtual;
using Keel.Core.Drills;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Virtual disks in files of a machine's volumes: which of them count, and what becomes of changes on them.</summary>
public sealed class InsideMachineTests
{
    [Fact]
    public void What_changes_inside_becomes_a_change_of_the_disk_and_the_machine_stays_as_it_was()
    {
        using var scratch = new Scratch();
        PracticeImage.Make(scratch["disk"], new PracticeSpec(), Faults.Find("inside-entry-missing"));
        using var machine = Machine.Open(scratch["disk"]);
        var windows = machine.Installations.ShouldHaveSingleItem().Volume;
        windows.InFile.ShouldBe(PracticeInside.File);
        machine.NamedDisks.ShouldBe([machine.StartDisk]);
        windows.Edit(files => files.WriteFile(@"\timetable.txt", "07:15 North Quay"u8));

        var changes = ChangeSet.Of(machine).Disks.ShouldHaveSingleItem();

        changes.Path.ShouldBe(machine.StartDisk.Path);
        changes.Changes.Any.ShouldBeTrue();
        machine.StartDisk.Overlay.Changes().Any.ShouldBeFalse("the outer disk is as it was");
        using var again = Machine.Open(scratch["disk"]);
        foreach (var range in changes.Changes.Ranges)
        {
            var bytes = new byte[range.Length];
            changes.Changes.CopyAfter(range, bytes);
            again.StartDisk.Overlay.Write(range.Start, bytes);
        }

        again.Installations[0].Volume.Files!.ReadFile(@"\timetable.txt").ShouldBe("07:15 North Quay"u8.ToArray());
    }

    /// <summary>A machine of its own in a file is shown, and no entry of this machine is led to it.</summary>
    [Theory]
    [InlineData(false)]
    [InlineData(true)]
    public void A_disk_that_starts_by_itself_is_another_machine(bool startsByItself)
    {
        using var scratch = new Scratch();
        PracticeImage.Make(scratch["disk"], new PracticeSpec(), Faults.Find("inside-entry-missing"));
        PracticeDisk.Change(scratch["disk"], ForgetTheFile);
        if (startsByItself)
        {
            PracticeDisk.Change(scratch["disk"], machine =>
                machine.Installations[0].Volume.Edit(files => files.WriteFile(@"\bootmgr", StandInManager.MakeBios("10.0.1.1"))));
        }

        using var machine = Machine.Open(scratch["disk"]);
        machine.Installations.Count.ShouldBe(1);
        machine.StoreInstallations.Count.ShouldBe(startsByItself ? 0 : 1);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.After.Verdict.ShouldBe(startsByItself ? Verdict.Broken : Verdict.Sound);
        if (startsByItself) plan.Changes.Any.ShouldBeFalse();
    }

    /// <summary>Drops every entry that names a virtual disk file.</summary>
    private static void ForgetTheFile(Machine machine) => StoreFaults.EditStore(machine, store =>
    {
        var naming = store.Entries.Where(entry => entry.Elements
            .Where(Element.IsDevice)
            .Any(element => entry.Device(element) is { IsInVirtualDisk: true }));
        foreach (var entry in naming.ToList()) store.Drop(entry.Id);
    });

    [Fact]
    public void An_entry_of_the_machine_itself_is_never_led_into_a_file()
    {
        using var scratch = new Scratch();
        PracticeImage.Make(scratch["disk"], new PracticeSpec(), Faults.Find("inside-entry-missing"));
        using var machine = Machine.Open(scratch["disk"]);
        var store = machine.Store.Store!;
        var entry = StoreEditing.AddWindows(
            store,
            machine.BootFiles,
            Guid.NewGuid(),
            BootDevice.Of(machine.StartDisk.Layout.Identity, machine.StartDisk.Layout.Partitions[1]),
            @"\Windows",
            "Windows 10 Pro",
            19045);
        EntryFit.Of(machine, entry).Choices.ShouldBeEmpty();
    }

    [Theory]
    [InlineData(@"volume:2:\machines\second.vhdx", 2, @"\machines\second.vhdx")]
    [InlineData("2:machines/second.vhdx", 2, @"\machines\second.vhdx")]
    [InlineData(@"VOLUME:10:\a", 10, @"\a")]
    [InlineData("volume:2:", 0, null)]
    [InlineData(@"volume:-1:\a", 0, null)]
    [InlineData(@"C:\machines\second.vhdx", 0, null)]
    [InlineData("", 0, null)]
    public void A_place_is_read_as_it_is_typed(string typed, int volume, string? file) =>
        InsidePath.TryParse(typed).ShouldBe(file is null ? null : new InsidePath(volume, file));

    [Fact]
    public void A_file_in_a_volume_grows_without_holes()
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
        {
            files.WriteFile(@"\grows.vhdx", new byte[5000]);
            var file = new FileInVolume(() => files, @"\grows.vhdx");
            VhdxMaking.Make(file, 64 * 1024 * 1024);
            file.LengthBytes.ShouldBe(4 * 1024 * 1024);
        });
        var found = practice.Windows.Files!.Find(@"\grows.vhdx")!;
        (found.Marks & FileMarks.Sparse).ShouldBe(FileMarks.None);
        found.SizeBytes.ShouldBe(4 * 1024 * 1024);
    }
}
