using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Firmware;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Store;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>
/// What the firmware starts is what its order says, whichever disk was named first; and a machine that starts is never stopped.
/// </summary>
public sealed class StartOrderTests
{
    private const string Old = "old.img", Current = "current.img";

    [Theory]
    [InlineData(Old, Current)]
    [InlineData(Current, Old)]
    public async Task The_disk_that_the_order_names_is_walked_whichever_came_first(string first, string second)
    {
        using var scratch = new Scratch();
        await MakeTwo(scratch);
        using var machine = Machine.Open([scratch[first], scratch[second]], Variables(scratch), startsThrough: null);
        machine.StartDisk.Path.ShouldBe(scratch[Current]);
        machine.SystemVolume!.DiskPath.ShouldBe(scratch[Current]);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Before.Findings.Select(finding => finding.Id).ShouldBeEmpty();
        plan.Before.Verdict.ShouldBe(Verdict.Sound);
        plan.Steps.ShouldBeEmpty();
    }

    [Fact]
    public async Task Of_two_efi_volumes_on_one_disk_the_one_in_the_order_is_taken()
    {
        using var scratch = new Scratch();
        await MakeTwo(scratch);
        await Tool.MustAgree("sgdisk", "--typecode=2:ef00", scratch[Current]);
        using var machine = Machine.Open([scratch[Current]], Variables(scratch), startsThrough: null);
        machine.SystemVolume!.Number.ShouldBe(1);
        machine.SystemVolumeReason.Id.ShouldBe("system-volume.esp-of-entry");
    }

    [Fact]
    public async Task Two_disks_with_a_windows_each_are_told_apart_by_the_order()
    {
        using var scratch = new Scratch();
        await MakeTwo(scratch);
        using var old = Machine.Open([scratch[Old]], null, startsThrough: null);
        var place = HardDrivePlace.Of(old.SystemVolume!.DiskIdentity, old.SystemVolume.Partition, 512);
        var variables = Variables(scratch);
        var number = variables.Add(LoadOption.OfWindows("Old", place, BootFiles.Uefi.ManagerPath));
        foreach (var (order, expected) in (((ushort[], string)[])[([number, 0], Old), ([0, number], Current)]))
        {
            variables.Order = order;
            using var machine = Machine.Open([scratch[Old], scratch[Current]], variables, startsThrough: null);
            machine.StartDisk.Path.ShouldBe(scratch[expected]);
        }

        var option = variables.Entry(number)!;
        variables.SetEntry(number, option with { Attributes = option.Attributes & ~LoadOption.ActiveBit });
        variables.Order = [number, 0];
        using var off = Machine.Open([scratch[Old], scratch[Current]], variables, startsThrough: null);
        off.StartDisk.Path.ShouldBe(scratch[Current]);
    }

    [Fact]
    public void Nothing_is_put_first_while_the_chain_behind_it_stays_broken()
    {
        using var scratch = new Scratch();
        var path = scratch[Current];
        PracticeImage.Make(path, new PracticeSpec { Firmware = FirmwareKind.Uefi }, Faults.Find("firmware-entry-missing"));
        using (var whole = Machine.Open([path], Variables(scratch), startsThrough: null))
        {
            Plan.For(whole, RepairTerms.Usual).Steps.ShouldContain(step => step.FindingId == "firmware-entry-missing");
        }

        PracticeDisk.Change(path, machine => machine.Installations[0].Volume.Edit(files =>
        {
            foreach (var folder in (string[])[@"\Windows\System32\config\RegBack", @"\Windows\System32\config"])
            {
                foreach (var file in files.List(folder)) files.Delete($@"{folder}\{file.Name}");
            }
        }));
        using var broken = Machine.Open([path], Variables(scratch), startsThrough: null);
        var plan = Plan.For(broken, RepairTerms.Usual);
        plan.After.Verdict.ShouldBe(Verdict.Broken);
        plan.Steps.ShouldNotContain(step => step.FindingId == "firmware-entry-missing");
        plan.Refused.ShouldContain(
            left => left.FindingId == "firmware-entry-missing" && left.Why.Id == "left.chain-stays-broken");
        plan.Changes.Variables.ShouldBeNull();
    }

    /// <summary>
    /// A disk that starts, with the firmware's variables; and one that was in it before, with a store that leads nowhere.
    /// </summary>
    private static async Task MakeTwo(Scratch scratch)
    {
        PracticeImage.Make(scratch[Old], new PracticeSpec { Firmware = FirmwareKind.Uefi }, Faults.Find("none"));
        await Tool.MustAgree("sgdisk", "--randomize-guids", scratch[Old]);
        PracticeImage.Make(
            scratch[Current],
            new PracticeSpec { Firmware = FirmwareKind.Uefi },
            Faults.Find("firmware-entry-missing"));
        Directory.Delete(PracticeVariables.FolderFor(scratch[Current]), recursive: true);
        Directory.CreateDirectory(PracticeVariables.FolderFor(scratch[Current]));
    }

    private static FirmwareVariables Variables(Scratch scratch)
    {
        var variables = FirmwareVariables.Open(PracticeVariables.FolderFor(scratch[Current]));
        if (variables.Order.Count > 0) return variables;
        using var machine = Machine.Open([scratch[Current]], variables, startsThrough: null);
        PracticeVariables.Fill(machine);
        foreach (var file in variables.Changes()) VariableFile.Write(variables.Folder, file.Name, file.After);
        return FirmwareVariables.Open(variables.Folder);
    }
}
