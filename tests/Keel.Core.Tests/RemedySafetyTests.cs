using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.BootCode.Loading;
using Keel.Core.Chain;
using Keel.Core.Drills;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Requests;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;
using Keel.Core.Volumes.Ntfs;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>
/// A repair never writes on the word of one structure that another contradicts, and never counts where it did not help.
/// </summary>
public sealed class RemedySafetyTests
{
    private const int MiB = 1024 * 1024, MftAt = 0x30, MirrorAt = 0x38;

    [Theory]
    [InlineData(MftAt, false)]
    [InlineData(MirrorAt, false)]
    [InlineData(MftAt, true)]
    [InlineData(MirrorAt, true)]
    public void A_pointer_into_a_file_is_the_finding_and_the_file_stays(int pointerAt, bool ofWindows)
    {
        using var scratch = new Scratch();
        var path = Practice(scratch);
        using var machine = Machine.Open(path);
        var volume = machine.Volumes.ElementAt(ofWindows ? 1 : 0);
        var blocks = volume.Blocks;
        var (file, cluster) = FileCluster(volume);
        var before = blocks.ReadBytes(cluster * 4096, 64 * 1024);
        var sector = blocks.ReadBytes(0, 512);
        BitConverter.TryWriteBytes(sector.AsSpan(pointerAt), cluster);
        PracticeDisk.Change(path, other => other.Volumes.ElementAt(ofWindows ? 1 : 0).Blocks.Write(0, sector));

        using var broken = Machine.Open(path);
        var plan = Plan.For(broken, RepairTerms.Usual);
        plan.Findings.Select(finding => finding.Id).ShouldContain(ofWindows ? "volume-wrong-mft" : "sector-wrong-mft");
        broken.Volumes
            .ElementAt(ofWindows ? 1 : 0).Blocks
            .ReadBytes(cluster * 4096, before.Length)
            .AsSpan()
            .SequenceEqual(before)
            .ShouldBeTrue($"{file} was written over");
        plan.After.Verdict.ShouldBe(Verdict.Sound);
    }

    [Fact]
    public void A_mirror_is_not_written_where_the_pointers_contradict_the_records()
    {
        using var scratch = new Scratch();
        using var machine = Machine.Open(Practice(scratch));
        var blocks = machine.Volumes.Last().Blocks;
        var sector = blocks.ReadBytes(0, 512);
        BitConverter.TryWriteBytes(sector.AsSpan(MirrorAt), 1000L);
        blocks.Write(0, sector);
        var place = blocks.ReadBytes(1000 * 4096, 4096);
        NtfsMirror.Of(blocks)!.PointersContradict.ShouldBeTrue();
        NtfsMirror.Mend(blocks).ShouldBeFalse();
        blocks.ReadBytes(1000 * 4096, 4096).ShouldBe(place);
    }

    [Fact]
    public void A_left_over_copy_of_another_file_system_is_no_backup()
    {
        using var scratch = new Scratch();
        using var machine = Machine.Open(Practice(scratch));
        var volume = machine.SystemVolume!;
        var copy = volume.Blocks.ReadBytes(volume.Blocks.LengthBytes - 512, 512);
        FatFormat.Format(volume.Blocks, "NEW", 1, 2048, FileSystemKind.Fat32, 512);
        volume.Blocks.Write(volume.Blocks.LengthBytes - 512, copy);
        volume.Blocks.Write(0, new byte[512]);
        BootSectorRescue.FindBackup(machine.Volumes.First())!.Value.Kind.ShouldBe(FileSystemKind.Fat32);
        volume.Blocks.Write(6 * 512, new byte[512]);
        BootSectorRescue.FindBackup(machine.Volumes.First()).ShouldBeNull();
    }

    [Fact]
    public void A_compressed_manager_in_a_compressed_folder_is_written_uncompressed()
    {
        using var scratch = new Scratch();
        var path = Practice(scratch, "manager-compressed");
        PracticeDisk.Change(
            path,
            machine => machine.SystemVolume!.Edit(files => ((NtfsVolume)files).CompressNewFiles("", compress: true)));
        using var machine = Machine.Open(path);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Steps.ShouldHaveSingleItem().FindingId.ShouldBe("manager-compressed");
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        (machine.SystemVolume!.Files!.Find(
            "")!.Marks & FileMarks.Compressed).ShouldBe(FileMarks.Compressed, "the folder stays as it is");
    }

    [Theory]
    [InlineData("bootmgr")]
    [InlineData("BOOTMGR")]
    [InlineData("BootMgr")]
    public async Task A_manager_on_fat_is_found_by_boot_code_however_it_is_spelled(string name)
    {
        using var scratch = new Scratch();
        var image = new MemoryBlocks(new byte[48 * MiB]);
        FatFormat.Format(image, "SYSTEM", 1, 0, FileSystemKind.Fat32, 512);
        using (var volume = FatVolume.Open(image, "it", forWriting: true))
        {
            volume.WriteFile($@"\{name}", StandInManager.MakeBios("10.0.1.1"));
            volume.List("").ShouldHaveSingleItem().Name.ShouldBe(name);
        }

        BootCodeLoading.Try(image, FileSystemKind.Fat32, LoaderKind.BootManager)!.Outcome.ShouldBe(LoadOutcome.Loaded);
        await File.WriteAllBytesAsync(scratch["volume"], image.Bytes, TestContext.Current.CancellationToken);
        await Tool.MustAgree("fsck.fat", "-n", scratch["volume"]);
        (await Tool.MustAgree("mdir", "-i", scratch["volume"], "-b", "::")).ShouldContain(name);
        (await Tool.MustAgree("mdir", "-i", scratch["volume"], "::")).ShouldNotContain("~1");
    }

    [Fact]
    public async Task A_manager_under_a_numbered_short_name_is_found_and_mended_and_starts()
    {
        using var scratch = new Scratch();
        var disk = await StartableDisk.Fat32(scratch, "disk", 4096);
        PracticeDisk.Change(disk, machine =>
        {
            // The short name as it was once written: BOOTMG~1, with the long one beside it.
            var blocks = machine.Volumes.Single().Blocks;
            var parameters = FatBootSector.TryRead(blocks.ReadBytes(0, 512))!;
            var root = parameters.DataSector * 512;
            var folder = blocks.ReadBytes(root, 4096);
            var at = Enumerable.Range(0, 128).First(slot => folder.AsSpan(slot * 32).StartsWith("BOOTMGR "u8)) * 32;
            var slot = folder.AsSpan(at, 32).ToArray();
            "BOOTMG~1   "u8.CopyTo(slot);
            slot[12] = 0;
            FatNames.LongSlots("bootmgr", slot.AsSpan(0, 11)).CopyTo(folder, at);
            slot.CopyTo(folder, at + 32);
            blocks.Write(root, folder);
        });
        using (var machine = Machine.Open(disk))
        {
            machine.SystemVolume!.Files!.Find(@"\bootmgr").ShouldNotBeNull();
            Walk.Of(machine).Findings.Select(finding => finding.Id).ShouldContain("manager-not-loadable");
        }

        PracticeDisk.Change(
            disk,
            machine =>
                Plan.For(machine, RepairTerms.Usual).Steps.ShouldContain(step => step.FindingId == "manager-not-loadable"));
        (await Emulator.Reaches(disk)).ShouldBeTrue();
    }

    [Theory]
    [InlineData("fault-files")]
    [InlineData("boot-code")]
    public void A_machine_of_the_older_loader_gets_nothing_of_the_newer_one(string sign)
    {
        using var scratch = new Scratch();
        var path = StartableDisk.Ntfs(scratch, "disk", loader: LoaderKind.Nt5Loader, fill: files =>
        {
            if (sign == "boot-code") return;
            files.WriteFile(@"\ntldr", StandInManager.MakeBios("5.1.1.1"));
            files.WriteFile(@"\boot.ini", "[boot loader]\r\n"u8);
        });
        PracticeDisk.Change(path, machine => machine.StartDisk.Overlay.Write(0, new byte[440]));
        using var machine = Machine.Open(path);
        var plan = Plan.For(machine, RepairTerms.Usual);
        plan.Findings.Select(finding => finding.Id).ShouldBe(
            sign == "boot-code"
                ? ["mbr-code-wiped", "ntldr-missing", "detect-missing", "boot-list-missing"]
                : ["mbr-code-wiped", "detect-missing", "boot-list-empty"],
            ignoreOrder: true);
        plan.Steps.ShouldHaveSingleItem().FindingId.ShouldBe("mbr-code-wiped");
        var empty = Store.BootStore.Empty(DateTimeOffset.UnixEpoch);
        Should.Throw<Errors.RefusedException>(() =>
            StoreRequests.Replace(machine, null, empty.ToBytes(), empty, Facts.Remark.Of("step.empty-store")));
        Should.Throw<Errors.RefusedException>(() =>
            BootCodeRequests.RewriteSector(machine, null, LoaderKind.BootManager, null, RepairTerms.Usual));
    }

    private static string Practice(Scratch scratch, string fault = "none")
    {
        PracticeImage.Make(scratch["disk"], new PracticeSpec(), Faults.Find(fault));
        return scratch["disk"];
    }

    /// <summary>A large file and the cluster that it begins at, found by its bytes.</summary>
    private static (string Name, long Cluster) FileCluster(DiskVolume volume)
    {
        var name = volume.Files!.Find(@"\bootmgr") is not null ? @"\bootmgr" : @"\Windows\System32\ntoskrnl.exe";
        var start = volume.Files.ReadFile(name).AsSpan(0, 512).ToArray();
        for (long cluster = 1; ; cluster++)
        {
            if (volume.Blocks.ReadBytes(cluster * 4096, 512).AsSpan().SequenceEqual(start)) return (name, cluster);
        }
    }
}
