using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Requests;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>
/// One wrong byte, or four, in the first sector: what is put back is that, and not the table or the store around it.
/// </summary>
public sealed class SmallTableFaultTests
{
    [Theory]
    [InlineData(440, 4)]
    [InlineData(0, 446)]
    public void A_lost_signature_comes_back_and_the_store_stays(int from, int count)
    {
        using var scratch = new Scratch();
        var disk = Made(scratch, from, new byte[count]);
        var sound = Sector(scratch["sound.img"]);
        using var machine = Machine.Open(disk);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Steps[0].FindingId.ShouldBe("disk-signature-missing");
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        plan.Changes.Disks.Single().Changes.Ranges.ShouldAllBe(range => range.Range.End <= 512);
        machine.StartDisk.Layout.Identity.ShouldBe(DiskIdentity.OfMbr(new MasterBootRecord(sound).Signature));
    }

    [Fact]
    public void A_signature_that_another_disk_has_is_not_given_twice()
    {
        using var scratch = new Scratch();
        var disk = Made(scratch, 440, new byte[4]);
        using var machine = Machine.Open(disk, scratch["sound.img"]);
        Plan.For(machine, RepairTerms.Usual).Refused.ShouldContain(refusal => refusal.Why.Id == "left.signature-taken");
        machine.RestoreUntouched();
        Should.Throw<RefusedException>(() => BootCodeRequests.Sign(machine, 0xB4AC0042));
        Should.Throw<RefusedException>(() => BootCodeRequests.Sign(machine, 0));
        BootCodeRequests.Sign(machine, 0x12345678).Changes.Disks[0].Changes.Ranges.ShouldHaveSingleItem();
    }

    /// <summary>Where a store knows no other signature, zero is the one it goes by.</summary>
    [Fact]
    public void A_disk_that_never_had_a_signature_is_sound()
    {
        using var scratch = new Scratch();
        var disk = scratch["disk.img"];
        PracticeImage.Make(disk, new PracticeSpec { DiskSignature = 0 }, Faults.Find("none"));
        using var machine = Machine.Open(disk);
        Walk.Of(machine).Findings.ShouldNotContain(finding => finding.Id == "disk-signature-missing");
    }

    [Theory]
    [InlineData(0)]
    [InlineData(1)]
    public async Task A_type_byte_of_a_gpt_beside_bios_evidence_is_one_byte(int slot)
    {
        using var scratch = new Scratch();
        var disk = Made(scratch, 446 + (slot * 16) + 4, [0xEE]);
        using (var machine = Machine.Open(disk))
        {
            var plan = Plan.For(machine, RepairTerms.Usual);
            plan.Before.Findings.Select(finding => finding.Id).ShouldContain("partition-protective-type");
            plan.After.Verdict.ShouldBe(Verdict.Sound);
            plan.Steps.ShouldHaveSingleItem();
            PracticeDisk.Change(disk, other => Plan.For(other, RepairTerms.Usual));
        }

        (await Tool.MustAgree("sfdisk", "--part-type", disk, $"{slot + 1}")).Trim().ShouldBe("7");
        Sector(disk).ShouldBe(Sector(scratch["sound.img"]));
    }

    [Fact]
    public void A_gpt_with_a_damaged_header_keeps_its_protection()
    {
        using var scratch = new Scratch();
        var disk = scratch["disk.img"];
        PracticeImage.Make(disk, new PracticeSpec { Firmware = FirmwareKind.Uefi }, Faults.Find("gpt-both-damaged"));
        using var machine = Machine.Open(disk);
        machine.StartDisk.Layout.Scheme.ShouldBe(PartitionScheme.Gpt);
    }

    /// <summary>The maker's recovery has a boot manager and a menu of its own, which stay as they are.</summary>
    [Theory]
    [InlineData("27")]
    [InlineData("7")]
    public async Task An_active_mark_on_the_makers_recovery_moves_back(string type)
    {
        using var scratch = new Scratch();
        var disk = await WithRecovery(scratch, type);
        await Tool.MustAgree("sfdisk", "--activate", disk, "3");
        using var machine = Machine.Open(disk);
        machine.SystemVolume!.Number.ShouldBe(1);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Steps.ShouldHaveSingleItem().FindingId.ShouldBe("table-active-wrong");
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        plan.Changes.Disks.Single().Changes.Ranges.ShouldAllBe(range => range.Range.End <= 512);
    }

    [Theory]
    [InlineData("27")]
    [InlineData("7")]
    public async Task A_makers_recovery_beside_a_sound_machine_is_no_fault(string type)
    {
        using var scratch = new Scratch();
        using var machine = Machine.Open(await WithRecovery(scratch, type));
        var walk = Walk.Of(machine);
        walk.Findings.ShouldAllBe(finding => finding.Kind.Severity == Severity.Note);
        walk.Verdict.ShouldBe(Verdict.Sound);
    }

    /// <summary>A practice disk with a third volume: boot manager, and a store that starts an image only.</summary>
    private static async Task<string> WithRecovery(Scratch scratch, string type)
    {
        const int sectors = 131_072;
        var disk = scratch["disk.img"];
        PracticeImage.Make(disk, new PracticeSpec(), Faults.Find("none"));
        var start = (new FileInfo(disk).Length / 512 / 2048 * 2048) + 2048;
        using (var file = File.OpenWrite(disk)) file.SetLength((start + sectors) * 512);
        using (var volume = File.Create(scratch["volume"])) volume.SetLength(sectors * 512L);
        string[] place = ["-p", $"{start}", "-H", "255", "-S", "63"];
        await Tool.MustAgree("mkntfs", ["-F", "-f", "-q", .. place, "-L", "RECOVERY", scratch["volume"]]);
        string[] target = [$"of={disk}", "bs=512", $"seek={start}", "conv=notrunc", "status=none"];
        await Tool.MustAgree("dd", [$"if={scratch["volume"]}", .. target]);
        await Tool.MustAgree(
            "sh", "-c", $"echo 'start={start}, size={sectors}, type={type}' | sfdisk --no-reread --append -q '{disk}'");
        PracticeDisk.Change(disk, machine =>
        {
            var store = machine.Store.Store!;
            foreach (var entry in store.WindowsEntries.ToList()) store.Drop(entry.Id);
            var image = store.Entries.First(entry => entry.IsRecovery);
            store.Manager!.Set(Element.Preferred, image.Id);
            store.Manager.Set(Element.MenuOrder, [image.Id]);
            var (manager, bytes) = (machine.SystemVolume!.Files!.ReadFile(@"\bootmgr"), store.ToBytes());
            machine.Volumes.First(volume => volume.Number == 3).Edit(files =>
            {
                files.WriteFile(@"\bootmgr", manager);
                files.CreateFolder(@"\Boot");
                files.WriteFile(@"\Boot\BCD", bytes);
            });
        });
        return disk;
    }

    private static string Made(Scratch scratch, int at, byte[] bytes)
    {
        PracticeImage.Make(scratch["sound.img"], new PracticeSpec(), Faults.Find("none"));
        File.Copy(scratch["sound.img"], scratch["disk.img"]);
        using var file = File.OpenWrite(scratch["disk.img"]);
        file.Position = at;
        file.Write(bytes);
        return scratch["disk.img"];
    }

    private static byte[] Sector(string disk)
    {
        using var file = File.OpenRead(disk);
        var sector = new byte[512];
        file.ReadExactly(sector);
        return sector;
    }
}
