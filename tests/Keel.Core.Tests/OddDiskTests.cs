using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Hives;
using Keel.Core.Layout;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Programs;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Fat;
using Keel.Core.Volumes.Ntfs;
using Keel.Core.Windows;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Disks that are odd: some of them sound all the same, others damaged where nothing used to look.</summary>
public sealed class OddDiskTests
{
    private const string Hive = @"\Windows\System32\config\SYSTEM", Software = @"\Windows\System32\config\SOFTWARE";

    [Fact]
    public void A_vendors_storage_driver_is_one()
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
        {
            ChangeHive(files, services =>
            {
                foreach (var own in new[] { "storahci", "stornvme" }) services.Child(own)!.Set(HiveValue.OfNumber("Start", 3));
                services.ChildOrNew("ferryraid")
                    .Set(HiveValue.OfNumber("Start", 0))
                    .Set(HiveValue.OfNumber("Type", 1))
                    .Set(HiveValue.OfNumber("ErrorControl", 3))
                    .Set(HiveValue.OfText("Group", "SCSI Miniport"));
            });
            files.WriteFile(
                @"\Windows\System32\drivers\ferryraid.sys",
                files.ReadFile(@"\Windows\System32\drivers\storahci.sys"));
        });
        var walk = Walk.Of(practice.Machine);
        walk.Verdict.ShouldBe(Verdict.Sound);
        walk.Findings.ShouldNotContain(finding => finding.Kind == StartDriversCheck.StorageDisabled);
    }

    [Theory]
    [InlineData("volmgr")]
    [InlineData("disk")]
    [InlineData("partmgr")]
    [InlineData("ntfs")]
    public void A_needed_driver_without_a_key_is_named(string driver)
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
            ChangeHive(files, services => services.Children.RemoveAll(child => child.Name == driver)));
        var finding = Walk.Of(practice.Machine).Findings.Single(found => found.Kind == StartDriversCheck.KeyMissing);
        finding.Seen.Facts.Find("names").ShouldBe(new[] { driver });
    }

    [Theory]
    [InlineData("gone", "software-hive-missing")]
    [InlineData("zeros", "software-hive-damaged")]
    [InlineData("short", "software-hive-damaged")]
    [InlineData("cut", "software-hive-damaged")]
    public void Without_its_software_hive_windows_does_not_start(string damage, string expected)
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
        {
            var bytes = files.ReadFile(Software);
            if (damage == "gone") files.Delete(Software);
            else files.WriteFile(Software, damage switch
            {
                "zeros" => new byte[bytes.Length],
                "short" => bytes[..600],
                _ => Grown(bytes)
            });
        });
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Before.StopsAt.ShouldBe(Link.SystemHive);
        plan.Findings.ShouldContain(finding => finding.Id == expected);
        plan.Steps.ShouldBeEmpty();
    }

    [Theory]
    [InlineData(false, Verdict.Sound)]
    [InlineData(true, Verdict.Broken)]
    public void A_hive_whose_numbers_differ_is_judged_by_what_is_in_it_where_no_log_helps(bool isTorn, Verdict expected)
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
        {
            var bytes = files.ReadFile(Hive);
            var header = HiveHeader.TryRead(bytes)!;
            (header with { PrimarySequence = header.PrimarySequence + 1 }).Write(bytes);
            if (isTorn) bytes.AsSpan(HiveHeader.Size + 1024, 512).Clear();
            files.WriteFile(Hive, bytes);
            files.WriteFile(Hive + ".LOG1", []);
        });
        Walk.Of(practice.Machine).Verdict.ShouldBe(expected);
    }

    [Theory]
    [InlineData("zeros", "manager-damaged")]
    [InlineData("text", "manager-damaged")]
    [InlineData("one KiB", "manager-altered")]
    [InlineData("one byte", "manager-altered")]
    public void The_bios_boot_manager_is_judged_by_its_content(string damage, string expected)
    {
        using var practice = new Practice();
        practice.ChangeSystem(files =>
        {
            var bytes = files.ReadFile(@"\bootmgr");
            switch (damage)
            {
                case "zeros":
                    bytes.AsSpan().Clear();
                    break;
                case "text":
                    bytes.AsSpan().Fill((byte)'a');
                    break;
                case "one KiB":
                    bytes.AsSpan(40 * 1024, 1024).Fill(0x5A);
                    break;
                default:
                    bytes[bytes.Length / 3] ^= 1;
                    break;
            }

            files.WriteFile(@"\bootmgr", bytes);
        });
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Before.Findings.ShouldContain(finding => finding.Id == expected);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
    }

    [Fact]
    public void Where_the_installations_copy_lost_something_the_manager_is_not_replaced_by_it()
    {
        using var practice = new Practice();
        practice.ChangeWindows(files =>
        {
            var bytes = files.ReadFile(@"\Windows\Boot\PCAT\bootmgr");
            bytes.AsSpan(40 * 1024, 8192).Clear();
            files.WriteFile(@"\Windows\Boot\PCAT\bootmgr", bytes);
        });
        Walk.Of(practice.Machine).Verdict.ShouldBe(Verdict.Sound);
    }

    [Theory]
    [InlineData(1)]
    [InlineData(60)]
    public void Boot_code_of_keels_with_a_few_wrong_bytes_is_damaged_and_none_of_another_system(int bytes)
    {
        using var practice = new Practice();
        var code = practice.Machine.StartDisk.Overlay.ReadBytes(0, MasterBootRecord.CodeBytes);
        for (var at = 0; at < bytes; at++) code[0x20 + at] ^= 0xFF;
        practice.Change(machine => machine.StartDisk.Overlay.Write(0, code));
        CodeRecognizer.OfMbr(code).Owner.ShouldBe(CodeOwner.Blank);
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Steps.ShouldHaveSingleItem().FindingId.ShouldBe("mbr-code-wiped");
        plan.After.Verdict.ShouldBe(Verdict.Sound);
    }

    [Fact]
    public void A_loader_that_runs_under_windows_is_none()
    {
        using var practice = new Practice();
        practice.ChangeWindows(files => files.WriteFile(
            @"\Windows\System32\winload.exe",
            files.ReadFile(@"\Windows\System32\ntoskrnl.exe")));
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Before.Findings.ShouldContain(finding => finding.Kind == LoaderFileCheck.NotProgram);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
    }

    [Fact]
    public void A_file_that_windows_packed_is_neither_condemned_nor_replaced_nor_copied()
    {
        using var practice = new Practice();
        foreach (var name in new[] { "storahci.sys", "ntoskrnl.exe" }) MarkAsPacked(practice, name);
        practice.Windows.Files!.Find(@"\Windows\System32\ntoskrnl.exe")!.Marks.HasFlag(FileMarks.Reparse).ShouldBeTrue();
        var state = ProgramState.Of(
            practice.Windows,
            practice.Windows.Files,
            @"\Windows\System32\ntoskrnl.exe",
            processor: null,
            whole: true);
        state.Condition.ShouldBe(ProgramCondition.NotCheckable);
        Should.Throw<Errors.UnreadableException>(() => practice.Windows.Files.OpenFile(@"\Windows\System32\ntoskrnl.exe"));
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Before.Verdict.ShouldBe(Verdict.Sound);
        plan.Steps.ShouldBeEmpty();
    }

    [Theory]
    [InlineData(FirmwareKind.Bios, @"\Boot")]
    [InlineData(FirmwareKind.Uefi, @"\EFI")]
    [InlineData(FirmwareKind.Uefi, @"\EFI\Microsoft")]
    [InlineData(FirmwareKind.Uefi, @"\EFI\Microsoft\Boot")]
    public void A_file_in_the_way_of_a_boot_folder_is_set_aside(FirmwareKind firmware, string path)
    {
        using var practice = new Practice("none", firmware);
        practice.ChangeSystem(files =>
        {
            files.Rename(path, "kept-elsewhere");
            files.WriteFile(path, "not a folder"u8);
        });
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Before.Verdict.ShouldBe(Verdict.Broken);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        practice.System.Files!.FileExists(path + ".aside1").ShouldBeTrue();
    }

    [Theory]
    [InlineData(FirmwareKind.Bios)]
    [InlineData(FirmwareKind.Uefi)]
    public void The_boot_sector_of_the_windows_volume_comes_back_to_the_byte(FirmwareKind firmware)
    {
        using var practice = new Practice("none", firmware);
        var before = practice.Windows.Blocks.ReadBytes(0, NtfsBootSector.Size);
        practice.Change(machine => machine.Installations[0].Volume.Blocks.Write(0, new byte[NtfsBootSector.Size]));
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Before.StopsAt.ShouldBe(Link.WindowsVolume);
        plan.Steps.ShouldHaveSingleItem().Link.ShouldBe(Link.WindowsVolume);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        practice.Windows.Blocks.ReadBytes(0, NtfsBootSector.Size).ShouldBe(before);
    }

    [Fact]
    public void Where_nothing_of_the_windows_volume_is_left_nothing_is_written()
    {
        using var practice = new Practice();
        practice.Change(machine =>
        {
            var blocks = machine.Installations[0].Volume.Blocks;
            blocks.Write(0, new byte[8 * 1024 * 1024]);
            blocks.Write(blocks.LengthBytes - NtfsBootSector.Size, new byte[NtfsBootSector.Size]);
            blocks.Write((blocks.LengthBytes / 2) - (512 * 1024), new byte[1024 * 1024]);
        });
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Findings.ShouldContain(finding => finding.Id == "windows-volume-no-file-system");
        plan.Steps.ShouldNotContain(step => step.Link >= Link.WindowsVolume);
    }

    [Fact]
    public void More_of_the_mft_than_its_mirror_holds_is_beyond_keel()
    {
        using var practice = new Practice();
        practice.Change(machine =>
        {
            var blocks = machine.Installations[0].Volume.Blocks;
            var boot = NtfsBootSector.TryRead(blocks.ReadBytes(0, NtfsBootSector.Size))!;
            blocks.Write(boot.MftCluster * boot.ClusterBytes, new byte[16 * boot.RecordBytes]);
        });
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Steps.ShouldBeEmpty();
        plan.Refused.ShouldContain(refusal => refusal.Why.Id == "left.mirror-not-enough");
    }

    [Fact]
    public async Task An_emptied_root_folder_frees_what_it_led_to_and_has_its_label_again()
    {
        using var practice = new Practice("none", FirmwareKind.Uefi);
        var before = practice.System.Files!.FreeBytes;
        practice.Change(machine =>
        {
            var blocks = machine.SystemVolume!.Blocks;
            var boot = FatBootSector.TryRead(blocks.ReadBytes(0, FatBootSector.Size))!;
            blocks.Write(boot.DataSector * boot.BytesPerSector, new byte[boot.ClusterBytes]);
        });
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        practice.System.Files!.Label.ShouldBe("SYSTEM");
        practice.System.Files.FreeBytes.ShouldBeInRange(before - (256 * 1024), before + (256 * 1024));
        var volume = Path.Combine(practice.Folder, "volume");
        var range = practice.System.Blocks.LengthBytes;
        await File.WriteAllBytesAsync(
            volume,
            practice.System.Blocks.ReadBytes(0, (int)range),
            TestContext.Current.CancellationToken);
        (await Tool.MustAgree("fsck.fat", "-n", volume)).ShouldNotContain("Orphan", Case.Insensitive);
    }

    [Fact]
    public void An_efi_system_partition_with_traces_of_files_is_not_formatted()
    {
        using var practice = new Practice("none", FirmwareKind.Uefi);
        practice.Change(machine =>
        {
            var blocks = machine.SystemVolume!.Blocks;
            var boot = FatBootSector.TryRead(blocks.ReadBytes(0, FatBootSector.Size))!;
            blocks.Write(0, new byte[(boot.DataSector * boot.BytesPerSector) + boot.ClusterBytes]);
        });
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Steps.ShouldNotContain(step => step.MakesFileSystem);
        plan.Refused.ShouldContain(refusal => refusal.Why.Id == "left.esp-holds-traces");
    }

    [Fact]
    public void A_hybrid_table_with_an_active_partition_is_the_one_that_counts()
    {
        var disk = new MemoryBlocks(new byte[64 * 1024 * 1024]);
        var range = new ByteRange(1024 * 1024, 32L * 1024 * 1024);
        var partition = new Partition(1, range, 0, PartitionTypes.GptBasicData, Guid.NewGuid(), false, false, "till");
        GptEditor.WriteNew(disk, Guid.NewGuid(), [partition]).ShouldBe(GptEditResult.Done);
        DiskLayout.Read(disk).Scheme.ShouldBe(PartitionScheme.Gpt);

        var record = new MasterBootRecord(disk.ReadBytes(0, MasterBootRecord.Size)) { Signature = 0xB4AC0042 };
        record.SetSlot(0, new PartitionSlot(0, PartitionTypes.Protective, 1, 2047));
        record.SetSlot(1, new PartitionSlot(PartitionSlot.ActiveMark, PartitionTypes.Ntfs, 2048, 65536));
        disk.Write(0, record.ToBytes());
        var layout = DiskLayout.Read(disk);
        layout.Scheme.ShouldBe(PartitionScheme.Mbr);
        layout.Problems.ShouldBeEmpty();
        layout.Partitions.ShouldHaveSingleItem().Range.ShouldBe(range);

        record.SetActive(1, active: false);
        disk.Write(0, record.ToBytes());
        DiskLayout.Read(disk).Scheme.ShouldBe(PartitionScheme.Gpt);
    }

    [Fact]
    public void A_gpt_of_an_earlier_life_does_not_count_against_a_table_whose_volumes_are_there()
    {
        using var practice = new Practice();
        var other = new Overlay(practice.Machine.StartDisk.Overlay);
        var range = new ByteRange(5 * 1024 * 1024, 32L * 1024 * 1024);
        GptEditor.WriteNew(
            other,
            Guid.NewGuid(),
            [new Partition(1, range, 0, PartitionTypes.GptBasicData, Guid.NewGuid(), false, false, "old")]);
        var table = other.ReadBytes(512, 33 * 512);
        practice.Change(machine => machine.StartDisk.Overlay.Write(512, table));
        Walk.Of(practice.Machine).Verdict.ShouldBe(Verdict.Sound);
    }

    /// <summary>Code that is not keel's and names the boot manager, with a copy of it in the volume's last sector.</summary>
    [Theory]
    [InlineData(0, null)]
    [InlineData(3, "sector-code-differs")]
    [InlineData(200, null)]
    public void Boot_code_of_windows_is_compared_with_its_copy(int alteredBytes, string? finding)
    {
        const int codeAt = 0x54, nameAt = 0x180, altersAt = 0x60;
        using var practice = new Practice();
        practice.Change(machine =>
        {
            var blocks = machine.SystemVolume!.Blocks;
            var sector = blocks.ReadBytes(0, NtfsBootSector.Size);
            for (var at = codeAt; at < nameAt; at++) sector[at] = (byte)(at * 7);
            "BOOTMGR is missing"u8.CopyTo(sector.AsSpan(nameAt));
            blocks.Write(blocks.LengthBytes - NtfsBootSector.Size, sector);
            for (var at = altersAt; at < altersAt + alteredBytes; at++) sector[at] ^= 0x55;
            blocks.Write(0, sector);
        });

        var findings = Walk.Of(practice.Machine).Findings.Where(found => found.Kind.Severity != Severity.Note).ToList();

        findings.Select(found => found.Id).ShouldBe(finding is null ? [] : [finding]);
        if (finding is null) return;
        findings[0].Seen.Facts.Get(Facts.Fact.DifferentBytes).ShouldBe(alteredBytes);
        Plan.For(practice.Machine, RepairTerms.Usual).After.Verdict.ShouldBe(Verdict.Sound);
    }

    private static byte[] Grown(byte[] hive)
    {
        var header = HiveHeader.TryRead(hive)!;
        (header with { BinsBytes = header.BinsBytes * 2 }).Write(hive);
        return hive;
    }

    private static void ChangeHive(IVolume files, Action<HiveNode> change)
    {
        var root = Hives.Hive.Open(files.ReadFile(Hive)).ReadTree();
        change(root.Child("ControlSet001")!.Child("Services")!);
        files.WriteFile(Hive, HiveWriter.Write(root, 5));
    }

    /// <summary>Sets the mark of a reparse point in the file's record, as packing by Windows does.</summary>
    private static void MarkAsPacked(Practice practice, string name) => practice.Change(machine =>
    {
        const int recordsLimit = 4000, standardInformation = 0x10, marksAt = 0x20, contentAt = 0x14;
        var blocks = machine.Installations[0].Volume.Blocks;
        var boot = NtfsBootSector.TryRead(blocks.ReadBytes(0, NtfsBootSector.Size))!;
        for (var number = 24; number < recordsLimit; number++)
        {
            var place = (boot.MftCluster * boot.ClusterBytes) + ((long)number * boot.RecordBytes);
            var bytes = blocks.ReadBytes(place, boot.RecordBytes);
            if (NtfsFileRecord.TryRead(bytes) is not { } record || !record.IsNamed(name)) continue;
            var first = BitConverter.ToUInt16(bytes, 0x14);
            bytes[first].ShouldBe((byte)standardInformation);
            var at = first + BitConverter.ToUInt16(bytes, first + contentAt) + marksAt;
            BitConverter.TryWriteBytes(bytes.AsSpan(at), BitConverter.ToUInt32(bytes, at) | (uint)FileMarks.Reparse);
            blocks.Write(place, bytes);
        }
    });
}
