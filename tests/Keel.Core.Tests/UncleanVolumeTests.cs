using System.Buffers.Binary;
using Keel.Core.Blocks;
using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Requests;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Ntfs;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Machines that crashed, or sleep: what is written on their volumes, and what is not.</summary>
public sealed class UncleanVolumeTests
{
    [Theory]
    [InlineData("store-missing", false)]
    [InlineData("store-missing", true)]
    [InlineData("loader-missing", true)]
    [InlineData("kernel-altered", false)]
    public void A_volume_that_is_only_marked_is_mended_and_stays_marked(string fault, bool inMirrorToo)
    {
        using var scratch = new Scratch();
        var disk = scratch["disk.img"];
        PracticeImage.Make(disk, new PracticeSpec(), Faults.Find(fault));
        PracticeDisk.Change(disk, machine => EachNtfs(machine, volume => Mark(volume, inMirrorToo)));
        using var machine = Machine.Open(disk);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Before.Verdict.ShouldNotBe(Verdict.Sound);
        plan.After.Verdict.ShouldNotBe(Verdict.Broken);
        plan.After.Findings.Select(finding => finding.Id).ShouldBe(["volume-unclean"]);
        plan.Steps.SelectMany(step => step.Details).ShouldContain(detail => detail.Says.Id == "line.volume-unclean");
        SafePlan.Holds(machine, plan).ShouldBeFalse();
        machine.Volumes.Where(volume => volume.Kind == FileSystemKind.Ntfs)
            .ShouldAllBe(volume => ((NtfsVolume)volume.Files!).IsDirty);
    }

    /// <summary>ntfs-3g's own programs say that the journal has work in it, and after the plan that nothing is changed.</summary>
    [Theory]
    [InlineData("store-missing")]
    [InlineData("sector-mark-missing")]
    [InlineData("sector-wrong-hidden")]
    [InlineData("mft-mirror-differs")]
    [InlineData("loader-altered")]
    [InlineData("windows-volume-sector-wiped")]
    public async Task Where_the_journal_has_work_in_it_nothing_is_written(string fault)
    {
        using var scratch = new Scratch();
        var disk = scratch["disk.img"];
        PracticeImage.Make(disk, new PracticeSpec(), Faults.Find("none"));
        PracticeDisk.Change(disk, machine => EachNtfs(machine, LeaveJournal));
        using (var whole = Machine.Open(disk))
        {
            foreach (var volume in whole.Volumes)
                (await Tool.Run("ntfs-3g.probe", "--readwrite", VolumeOf(scratch, volume))).ExitCode.ShouldBe(15);
        }

        PracticeDisk.Change(disk, machine => Break(machine, fault));
        using var machine = Machine.Open(disk);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Steps.ShouldBeEmpty();
        plan.Changes.Any.ShouldBeFalse();
        plan.Refused.ShouldNotBeEmpty();
    }

    [Fact]
    public void What_is_asked_for_outright_passes_the_same_guard()
    {
        using var scratch = new Scratch();
        var disk = scratch["disk.img"];
        PracticeImage.Make(disk, new PracticeSpec(), Faults.Find("none"));
        PracticeDisk.Change(disk, machine => EachNtfs(machine, LeaveJournal));
        PracticeDisk.Change(disk, machine => machine.SystemVolume!.Blocks.Write(0x150, new byte[16]));
        using var machine = Machine.Open(disk);
        Should.Throw<RefusedException>(() => BootCodeRequests.RewriteSector(
            machine, null, Keel.Core.BootCode.LoaderKind.BootManager, null, RepairTerms.Usual)).Why.ShouldContain("journal");
    }

    [Fact]
    public void A_session_is_given_up_before_anything_is_written_on_its_volumes()
    {
        using var scratch = new Scratch();
        var disk = scratch["disk.img"];
        PracticeImage.Make(disk, new PracticeSpec(), Faults.Find("volume-hibernated"));
        using (var asleep = Machine.Open(disk)) Plan.For(asleep, RepairTerms.Usual).Steps.ShouldBeEmpty();
        PracticeDisk.Change(disk, machine => Break(machine, "sector-mark-missing"));
        using var machine = Machine.Open(disk);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Steps[0].Consent.ShouldBe(StepConsent.GivesUpSession);
        plan.Steps.Count.ShouldBe(2);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        var without = plan.Without(plan.Steps[0]);
        without.Steps.ShouldBeEmpty();
        without.Refused.ShouldContain(refusal => refusal.Why.Id == "left.session-open");
    }

    [Fact]
    public void A_machine_that_neither_resumes_nor_starts_has_a_way_out()
    {
        using var scratch = new Scratch();
        var disk = scratch["disk.img"];
        PracticeImage.Make(disk, new PracticeSpec { Firmware = FirmwareKind.Uefi }, Faults.Find("volume-hibernated"));
        using var machine = Machine.Open(disk);
        var plan = Plan.For(machine, RepairTerms.Usual with { GiveUpSession = true });
        plan.Steps.ShouldHaveSingleItem().Consent.ShouldBe(StepConsent.GivesUpSession);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        SafePlan.Holds(machine, plan).ShouldBeFalse();
    }

    private static void EachNtfs(Machine machine, Action<DiskVolume> change)
    {
        foreach (var volume in machine.Volumes.Where(volume => volume.Kind == FileSystemKind.Ntfs).ToList()) change(volume);
    }

    private static void Break(Machine machine, string fault)
    {
        var volume = machine.SystemVolume!;
        switch (fault)
        {
            case "sector-mark-missing": volume.Blocks.Write(510, [0, 0]); break;
            case "sector-wrong-hidden": volume.Blocks.Write(0x1C, [1, 2, 3, 4]); break;
            case "windows-volume-sector-wiped": machine.Installations[0].Volume.Blocks.Write(0, new byte[512]); break;
            case "mft-mirror-differs":
                volume.Blocks.Write(Boot(volume).MftMirrorCluster * Boot(volume).ClusterBytes, new byte[64]);
                break;
            default: Raw(volume, fault == "store-missing" ? "BCD" : "winload.exe"); break;
        }
    }

    /// <summary>Spoils a name in $MFT, as a file system would not: the volume can't be opened for writing.</summary>
    private static void Raw(DiskVolume volume, string name)
    {
        var mark = System.Text.Encoding.Unicode.GetBytes(name);
        var blocks = volume.Partition.Range.Length > 0 ? volume.Blocks : throw new InvalidOperationException();
        var bytes = blocks.ReadBytes(0, (int)Math.Min(blocks.LengthBytes, 64 << 20));
        var at = bytes.AsSpan().IndexOf(mark);
        while (at >= 0)
        {
            blocks.Write(at, System.Text.Encoding.Unicode.GetBytes(new string('#', name.Length)));
            var next = bytes.AsSpan(at + 1).IndexOf(mark);
            at = next < 0 ? -1 : at + 1 + next;
        }
    }

    private static NtfsBootSector Boot(DiskVolume volume) =>
        NtfsBootSector.TryRead(volume.Blocks.ReadBytes(0, NtfsBootSector.Size))!;

    /// <summary>Sets the mark in $Volume, record 3.</summary>
    private static void Mark(DiskVolume volume, bool inMirrorToo)
    {
        var boot = Boot(volume);
        long[] places = inMirrorToo ? [boot.MftCluster, boot.MftMirrorCluster] : [boot.MftCluster];
        foreach (var cluster in places)
        {
            var start = (cluster * boot.ClusterBytes) + (3 * boot.RecordBytes);
            var record = volume.Blocks.ReadBytes(start, boot.RecordBytes);
            int at = BinaryPrimitives.ReadUInt16LittleEndian(record.AsSpan(0x14));
            while (BinaryPrimitives.ReadInt32LittleEndian(record.AsSpan(at)) != 0x70)
                at += BinaryPrimitives.ReadInt32LittleEndian(record.AsSpan(at + 4));
            volume.Blocks.Write(start + at + BinaryPrimitives.ReadUInt16LittleEndian(record.AsSpan(at + 0x14)) + 10, [1]);
        }
    }

    /// <summary>Two restart pages of a journal that NTFS has open.</summary>
    private static void LeaveJournal(DiskVolume volume) => volume.Edit(files =>
    {
        var size = files.Find(@"\$LogFile")!.SizeBytes;
        var page = RestartPage(size);
        files.Patch(@"\$LogFile", 0, page);
        files.Patch(@"\$LogFile", page.Length, page);
    });

    private static byte[] RestartPage(long fileBytes)
    {
        const int pageBytes = 4096, areaAt = 0x30, clientsAt = 0x40, fixupsAt = 0x1E;
        var page = new byte[pageBytes];
        void U16(int at, int value) => BinaryPrimitives.WriteUInt16LittleEndian(page.AsSpan(at), (ushort)value);
        void U32(int at, int value) => BinaryPrimitives.WriteInt32LittleEndian(page.AsSpan(at), value);
        "RSTR"u8.CopyTo(page);
        U16(4, fixupsAt);
        U16(6, (pageBytes / 512) + 1);
        U32(16, pageBytes);
        U32(20, pageBytes);
        U16(24, areaAt);
        U16(26, 1);
        U16(28, 1);
        BinaryPrimitives.WriteInt64LittleEndian(page.AsSpan(areaAt), 0x1000);
        U16(areaAt + 8, 1);
        U16(areaAt + 10, 0xFFFF);
        U32(areaAt + 16, 67 - (64 - System.Numerics.BitOperations.LeadingZeroCount((ulong)fileBytes)));
        U16(areaAt + 20, clientsAt + 160);
        U16(areaAt + 22, clientsAt);
        BinaryPrimitives.WriteInt64LittleEndian(page.AsSpan(areaAt + 24), fileBytes);
        U16(areaAt + 36, 0x30);
        U16(areaAt + 38, 0x40);
        var client = areaAt + clientsAt;
        U16(client + 16, 0xFFFF);
        U16(client + 18, 0xFFFF);
        U32(client + 28, 8);
        "N\0T\0F\0S\0"u8.CopyTo(page.AsSpan(client + 32));
        for (var sector = 0; sector < pageBytes / 512; sector++)
        {
            page.AsSpan((sector * 512) + 510, 2).CopyTo(page.AsSpan(fixupsAt + 2 + (sector * 2)));
            U16((sector * 512) + 510, 1);
        }

        U16(fixupsAt, 1);
        return page;
    }

    private static string VolumeOf(Scratch scratch, DiskVolume volume)
    {
        var path = scratch[$"volume{volume.Number}.img"];
        File.WriteAllBytes(path, volume.Blocks.ReadBytes(0, (int)Math.Min(volume.Blocks.LengthBytes, int.MaxValue)));
        return path;
    }
}
