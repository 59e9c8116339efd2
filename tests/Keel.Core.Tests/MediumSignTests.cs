using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Store;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>A medium that starts by its fallback file lacks nothing; a machine that has lost its boot manager does.</summary>
public sealed class MediumSignTests
{
    [Theory]
    [InlineData("label: dos\n2048,140000,c,*", false)]
    [InlineData("label: dos\n2048,140000,c", false)]
    [InlineData("label: dos\n2048,140000,ef", true)]
    [InlineData("label: gpt\n2048,140000,U", false)]
    [InlineData("label: gpt\n2048,140000,U", true)]
    [InlineData("label: gpt\n2048,140000,EBD0A0A2-B9E5-4433-87C0-68B6B72699C7", false)]
    public async Task A_stick_with_only_the_fallback_file_is_a_medium(string table, bool hasRecoveryStore)
    {
        using var scratch = new Scratch();
        using var machine = Machine.Open(await Stick(scratch, table, hasRecoveryStore));
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Before.Verdict.ShouldBe(Verdict.Sound);
        plan.Before.Findings.ShouldHaveSingleItem().Id.ShouldBe("medium-alone");
        plan.Steps.ShouldBeEmpty();
    }

    [Theory]
    [InlineData("label: gpt\n2048,140000,U", "", "manager-missing")]
    [InlineData("label: gpt\n2048,140000,U", "garbage", "manager-missing")]
    public async Task Without_a_sound_fallback_file_it_is_none(string table, string contents, string expected)
    {
        using var scratch = new Scratch();
        var disk = await Stick(scratch, table, false);
        PracticeDisk.Change(disk, machine => machine.Volumes.Single().Edit(files =>
        {
            if (contents.Length == 0) files.Delete(@"\EFI\Boot\bootx64.efi");
            else files.WriteFile(@"\EFI\Boot\bootx64.efi", System.Text.Encoding.ASCII.GetBytes(contents));
        }));
        using var machine = Machine.Open(disk);
        Walk.Of(machine).Findings.Select(finding => finding.Id).ShouldContain(expected);
    }

    [Fact]
    public void A_machine_that_has_lost_its_boot_manager_is_no_medium()
    {
        using var scratch = new Scratch();
        PracticeImage.Make(scratch["disk"], new PracticeSpec { Firmware = FirmwareKind.Uefi }, Faults.Find("none"));
        PracticeDisk.Change(scratch["disk"], machine => machine.SystemVolume!.Edit(files =>
        {
            files.Delete(BootFiles.Uefi.ManagerPath);
            files.Delete(BootFiles.Uefi.StorePath);
        }));
        using var machine = Machine.Open(scratch["disk"]);
        Walk.Of(machine).Findings.Select(finding => finding.Id).ShouldContain("manager-missing");
    }

    /// <summary>A folder of the boot manager is left over: that machine has lost it, wherever its Windows is.</summary>
    [Fact]
    public async Task Where_the_folder_of_a_boot_manager_is_left_over_it_is_no_medium()
    {
        using var scratch = new Scratch();
        var disk = await Stick(scratch, "label: gpt\n2048,140000,U", false);
        PracticeDisk.Change(disk, machine => machine.Volumes.Single().Edit(files =>
            files.CreateFolder(BootFiles.Uefi.StoreFolder + @"\Fonts")));
        using var machine = Machine.Open(disk);
        Walk.Of(machine).Findings.Select(finding => finding.Id).ShouldContain("manager-missing");
    }

    /// <summary>What can't be read beside it may be its Windows: encrypted, or without a boot sector.</summary>
    [Theory]
    [InlineData("-FVE-FS-")]
    [InlineData("")]
    public void Beside_a_volume_that_cannot_be_read_it_is_no_medium(string mark)
    {
        using var scratch = new Scratch();
        PracticeImage.Make(scratch["disk"], new PracticeSpec { Firmware = FirmwareKind.Uefi }, Faults.Find("none"));
        PracticeDisk.Change(scratch["disk"], machine => machine.SystemVolume!.Edit(files =>
        {
            files.Delete(BootFiles.Uefi.ManagerPath);
            files.Delete(BootFiles.Uefi.StorePath);
        }));
        PracticeDisk.Change(scratch["disk"], machine =>
        {
            var blocks = machine.Installations[0].Volume.Blocks;
            if (mark.Length > 0) blocks.Write(3, System.Text.Encoding.ASCII.GetBytes(mark));
            else blocks.Write(0, new byte[512]);
        });
        using var machine = Machine.Open(scratch["disk"]);
        Walk.Of(machine).Findings.Select(finding => finding.Id).ShouldNotContain("medium-alone");
    }

    private static async Task<string> Stick(Scratch scratch, string table, bool hasRecoveryStore)
    {
        var disk = scratch["stick.img"];
        using (var file = File.Create(disk)) file.SetLength(80 << 20);
        await Tool.MustAgree("sh", "-c", $"printf '{table}\\n' | sfdisk -q '{disk}'");
        await Tool.MustAgree("mkfs.fat", "--offset", "2048", "-h", "2048", "-F", "32", "-s", "1", disk, "70000");
        PracticeDisk.Change(disk, machine => machine.Volumes.Single().Edit(files =>
        {
            files.CreateFolder(@"\EFI\Boot");
            files.WriteFile(@"\EFI\Boot\bootx64.efi", StandInManager.MakeEfi("bootx64.efi", "10.0.19045.1"));
            if (!hasRecoveryStore) return;
            files.CreateFolder(@"\EFI\Microsoft\Recovery");
            files.WriteFile(@"\EFI\Microsoft\Recovery\BCD", new byte[8192]);
        }));
        return disk;
    }
}
