using System.Text;
using Keel.Core.Blocks;
using Keel.Core.BootCode;
using Keel.Core.BootLists;
using Keel.Core.Chain;
using Keel.Core.Chain.Checks;
using Keel.Core.Drills;
using Keel.Core.Errors;
using Keel.Core.Machines;
using Keel.Core.Mending;
using Keel.Core.Requests;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Volumes.Ntfs;
using Keel.Tests;

namespace Keel.Core.Tests;

/// <summary>Machines of NT 5: odd ones that start, broken ones that are mended.</summary>
public sealed class Nt5Tests
{
    private const string Usual = @"multi(0)disk(0)rdisk(0)partition(2)\WINDOWS";

    public static TheoryData<string> SoundLists() => new()
    {
        $"[boot loader]\ndefault={Usual}\n[operating systems]\n{Usual}=\"Till\"\n",
        $"[operating systems]\n{Usual}=\"Till\"\n",
        $"[boot loader]\r\ntimeout=-1\r\ndefault={Usual.ToUpperInvariant()}\r\n[operating systems]\r\n{Usual}=\"Till\"\r\n",
        "[boot loader]\ndefault=signature(b4ac0042)disk(0)rdisk(0)partition(2)\\WINDOWS\n[operating systems]\n"
            + "signature(b4ac0042)disk(0)rdisk(0)partition(2)\\WINDOWS=\"Till\" /fastdetect\n",
        $"[boot loader]\ndefault=scsi(0)disk(0)rdisk(0)partition(2)\\WINDOWS\n[operating systems]\n"
            + "scsi(0)disk(0)rdisk(0)partition(2)\\WINDOWS=\"Till\"\n",
        $"[boot loader]\ndefault={Usual}\\\n[operating systems]\nC:\\OLDBOOT.DOS=\"Earlier\"\n{Usual}=\"Till\" /HAL=hal.dll\n"
    };

    [Theory, MemberData(nameof(SoundLists))]
    public void A_list_that_starts_is_sound(string list)
    {
        using var practice = Make();
        practice.ChangeSystem(files => files.WriteFile(BootListState.Path, Encoding.ASCII.GetBytes(list)));
        var walk = Walk.Of(practice.Machine);
        walk.Findings.Select(finding => finding.Id).ShouldBeEmpty();
        walk.Verdict.ShouldBe(Verdict.Sound);
    }

    [Theory]
    [InlineData(
        @"[operating systems]|multi(0)disk(0)rdisk(1)partition(2)\WINDOWS=""Till"" /sos",
        "boot-line-wrong-partition",
        "Till")]
    [InlineData(
        @"[operating systems]|multi(0)disk(0)rdisk(0)partition(9)\WINDOWS=""Till"" /sos",
        "boot-line-wrong-partition",
        "Till")]
    [InlineData(
        @"[operating systems]|multi(0)disk(0)rdisk(0)partition(0)\WINDOWS=""Till"" /sos",
        "boot-line-wrong-partition",
        "Till")]
    [InlineData(
        @"[operating systems]|signature(12345678)disk(0)rdisk(0)partition(2)\WINDOWS=""Till"" /sos",
        "boot-line-wrong-partition",
        "Till")]
    [InlineData(
        @"[operating systems]|multi(0)disk(0)rdisk(0)partition(2)\WINNT=""Till"" /sos",
        "boot-line-wrong-folder",
        "Till")]
    [InlineData(
        @"[operating systems]|multi(0)disk(0)rdisk(0)partition(2)=""Till"" /sos",
        "boot-line-wrong-folder",
        "Till")]
    [InlineData(
        @"[boot loader]|default=multi(0)disk(0)rdisk(0)partition(2)\WINDOWS|[operating systems]|C:\=""Old""",
        "boot-line-unlisted",
        "Microsoft Windows XP")]
    [InlineData(
        @"no sections at all",
        "boot-list-empty",
        "Microsoft Windows XP")]
    [InlineData(
        @"[boot loader]|timeout=7",
        "boot-list-empty",
        "Microsoft Windows XP")]
    public void A_list_that_leads_nowhere_is_mended_with_its_title(string list, string finding, string title)
    {
        using var practice = Make();
        practice.ChangeSystem(files =>
            files.WriteFile(BootListState.Path, Encoding.ASCII.GetBytes(list.Replace("|", "\r\n", StringComparison.Ordinal))));
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Before.Findings.Select(found => found.Id).ShouldBe([finding]);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        var mended = practice.Machine.BootList.List!;
        mended.Preferred!.Title.ShouldBe(title);
        BootList.IsSame(mended.Preferred.Target, Usual).ShouldBeTrue();
        if (title == "Till") mended.Preferred.Switches.ShouldBe("/sos");
        if (list.Contains("timeout=7", StringComparison.Ordinal)) mended.WaitSeconds.ShouldBe(7);
        practice.System.Files!.FileExists(@"\boot.ini.aside1").ShouldBeTrue("the old one stays beside it");
    }

    public static TheoryData<string> Hostile() => ["zeros", "noise", "a folder", "large", "one endless row", "only quotes"];

    [Theory, MemberData(nameof(Hostile))]
    public void Whatever_stands_there_ends_in_a_finding_and_a_new_list(string content)
    {
        using var practice = Make();
        practice.ChangeSystem(files =>
        {
            files.Delete(BootListState.Path);
            if (content == "a folder") files.CreateFolder(BootListState.Path);
            else files.WriteFile(BootListState.Path, Bytes(content));
        });
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Before.StopsAt.ShouldBe(Link.BootList);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
    }

    private static byte[] Bytes(string content)
    {
        var noise = new byte[3000];
        new Random(3).NextBytes(noise);
        return content switch
        {
            "zeros" => new byte[500],
            "noise" => noise,
            "large" => [.. Enumerable.Repeat((byte)'x', 70_000)],
            "one endless row" => [.. Enumerable.Repeat((byte)'=', 60_000)],
            _ => Encoding.ASCII.GetBytes(new string('"', 4000))
        };
    }

    /// <summary>Without a list the loader takes the first partition, which may be right.</summary>
    [Theory]
    [InlineData(true)]
    [InlineData(false)]
    public void Without_a_list_the_first_partition_starts(bool isThere)
    {
        using var practice = Make();
        practice.ChangeSystem(files =>
        {
            files.Delete(BootListState.Path);
            if (isThere) files.CreateFolder(@"\WINDOWS\system32");
        });
        var found = Walk.Of(practice.Machine).Findings.First(finding => finding.Link == Link.BootList);
        found.Id.ShouldBe(isThere ? "boot-list-unused" : "boot-list-missing");
    }

    /// <summary>The library can't look such a file up; that says something of the list, and does not end the diagnosis.</summary>
    [Fact]
    public void A_list_whose_file_record_is_damaged_is_unreadable_and_ends_nothing()
    {
        using var practice = Make();
        practice.Change(machine => DamageRecordOf("boot.ini", machine.SystemVolume!));
        practice.Machine.BootList.Condition.ShouldBe(BootListCondition.Unreadable);
        var diagnosis = Diagnosis.Of(practice.Machine, reported: null, RepairTerms.Usual);
        diagnosis.Plan.Before.Verdict.ShouldBe(Verdict.Broken);
        diagnosis.Plan.Findings.ShouldContain(finding => finding.Id == "boot-list-unreadable");
        diagnosis.Plan.Refused.ShouldAllBe(refusal => refusal.Why.Id != "left.not-made-for");
    }

    [Fact]
    public void Partitions_are_counted_primary_first_then_logical()
    {
        using var practice = Make();
        var windows = practice.Machine.Installations[0].Volume;
        ArcPlaces.Of(practice.Machine, windows, @"\WINDOWS").ShouldBe(ArcPath.TryParse(Usual));
        ArcPlaces.VolumeOf(practice.Machine, ArcPath.TryParse(Usual)!).ShouldBe(windows);
        ArcPlaces.VolumeOf(practice.Machine, ArcPath.OnDisk(0, 3, "")).ShouldBeNull();
        ArcPlaces.VolumeOf(practice.Machine, ArcPath.OnDisk(1, 1, "")).ShouldBeNull();
    }

    [Fact]
    public void The_youngest_restore_point_that_can_be_read_gives_the_hive()
    {
        using var practice = Make("nt5-hive-damaged");
        practice.ChangeWindows(files =>
        {
            var older = PracticeNt5.RestorePoint.Replace("RP7", "RP10", StringComparison.Ordinal);
            files.CreateFolder(older);
            files.WriteFile($@"{older}\_REGISTRY_MACHINE_SYSTEM", new byte[8192]);
        });
        var step = Plan.For(practice.Machine, RepairTerms.Usual).Steps.ShouldHaveSingleItem();
        $"{step.Summary}".ShouldContain("RP7");
    }

    /// <summary>Where no restore point is left, the copy that setup made is better than none.</summary>
    [Fact]
    public void The_copy_of_the_setup_comes_last()
    {
        using var practice = Make("nt5-hive-damaged");
        practice.ChangeWindows(files => files.Delete($@"{PracticeNt5.RestorePoint}\_REGISTRY_MACHINE_SYSTEM"));
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        $"{plan.Steps.ShouldHaveSingleItem().Summary}".ShouldContain("repair");
        plan.After.Verdict.ShouldBe(Verdict.Sound);
    }

    public static TheoryData<int, string?> Loaders() => new()
    {
        { 202_752, null },
        { 202_000, "ntldr.cut-short" },
        { 120_000, "ntldr.cut-short" },
        { 8_000, "ntldr.too-short" }
    };

    [Theory, MemberData(nameof(Loaders))]
    public void A_loader_is_judged_by_the_program_in_it(int length, string? why) =>
        Nt5LoaderCheck.WhyDamaged(new MemoryBlocks(PracticeNt5.Loader().AsSpan(0, length).ToArray())).ShouldBe(why);

    [Fact]
    public void What_is_no_code_is_no_loader()
    {
        var program = StandInProgram.Make(
            "x",
            "1.0.0.1",
            System.Reflection.PortableExecutable.Subsystem.Native,
            bodyBytes: 40_000);
        Nt5LoaderCheck.WhyDamaged(new MemoryBlocks(program)).ShouldBe("ntldr.no-code");
        Nt5LoaderCheck.WhyDamaged(new MemoryBlocks(new byte[40_000])).ShouldBe("ntldr.no-code");
    }

    /// <summary>Without a copy on the disk nothing is written; a medium's folder gives it.</summary>
    [Fact]
    public void A_medium_gives_the_files_that_the_disk_has_no_copy_of()
    {
        using var practice = Make("ntldr-missing");
        practice.ChangeWindows(files => files.Delete($@"{PracticeNt5.Copies}\ntldr"));
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Steps.ShouldBeEmpty();
        plan.Refused.ShouldContain(refusal => refusal.Why.Id == "left.nt5-no-copy");

        var medium = Directory.CreateDirectory(Path.Combine(practice.Folder, "medium", "I386")).FullName;
        File.WriteAllBytes(Path.Combine(medium, "NTLDR"), PracticeNt5.Loader());
        File.WriteAllBytes(Path.Combine(medium, "ntdetect.com"), practice.System.Files!.ReadFile(DetectFileCheck.Path));
        var terms = new RenewTerms([], new Windows.FolderTree(Path.GetDirectoryName(medium)!), null, All: false);
        var renewed = FileRequests.Renew(practice.Machine, null, terms, RepairTerms.Usual);
        renewed.After.Verdict.ShouldBe(Verdict.Sound);
        practice.Machine.SystemVolume!.Files!.ReadFile(Nt5LoaderCheck.Path).ShouldHold(PracticeNt5.Loader());

        File.WriteAllBytes(Path.Combine(medium, "NTLDR"), "SZDD packed"u8.ToArray());
        Should.Throw<RefusedException>(() => FileRequests.Renew(practice.Machine, null, terms, RepairTerms.Usual));
    }

    [Fact]
    public void A_lost_active_mark_comes_back_to_the_volume_of_the_loader()
    {
        using var practice = Make();
        practice.Change(Faults.Find("table-active-wrong").Apply);
        var plan = Plan.For(practice.Machine, RepairTerms.Usual);
        plan.Before.Findings.Select(finding => finding.Id).ShouldBe(["table-active-wrong"]);
        plan.After.Verdict.ShouldBe(Verdict.Sound);
        practice.Machine.SystemVolume!.Number.ShouldBe(1);
    }

    [Theory]
    [InlineData("1", "Till")]
    [InlineData("till", "Till")]
    [InlineData("Other", "Other till")]
    public void A_line_is_named_by_number_or_title(string words, string title)
    {
        var list = BootList.Empty(BootListPages.Of(850), 5);
        list.Add(Usual, "Till", "");
        list.Add(Usual, "Other till", "");
        BootListRequests.Pick(list, words).Title.ShouldBe(title);
    }

    [Theory]
    [InlineData("3")]
    [InlineData("x")]
    [InlineData("")]
    public void What_names_no_line_is_refused(string words)
    {
        var list = BootList.Empty(BootListPages.Of(850), 5);
        list.Add(Usual, "Till", "");
        list.Add(Usual, "Till of the bar", "");
        Should.Throw<WrongUsageException>(() => BootListRequests.Pick(list, words));
    }

    [Theory]
    [InlineData("2", Usual)]
    [InlineData(@"2:\WINNT", @"multi(0)disk(0)rdisk(0)partition(2)\WINNT")]
    [InlineData(@"C:\OLDBOOT.DOS", @"C:\OLDBOOT.DOS")]
    [InlineData(@"signature(1)disk(0)rdisk(0)partition(1)\W", @"signature(1)disk(0)rdisk(0)partition(1)\W")]
    [InlineData("7", null)]
    [InlineData("Till", null)]
    [InlineData(@"2:WINNT", null)]
    public void A_target_is_written_as_technicians_do(string words, string? target)
    {
        using var practice = Make();
        if (target is null) Should.Throw<WrongUsageException>(() => BootListRequests.TargetOf(practice.Machine, words));
        else BootListRequests.TargetOf(practice.Machine, words).ShouldBe(target);
    }

    public static TheoryData<string> Kinds() => ["FAT12", "FAT16", "FAT32", "NTFS"];

    /// <summary>One partition with everything on it, as in most tills: lost files come back, and it starts.</summary>
    [Theory, MemberData(nameof(Kinds))]
    public async Task A_machine_of_one_partition_of_any_file_system_is_mended_and_starts(string kind)
    {
        using var scratch = new Scratch();
        var disk = await OnePartition(scratch, kind);
        using (var machine = Machine.Open(disk)) Walk.Of(machine).Verdict.ShouldBe(Verdict.Sound, Text(Walk.Of(machine)));
        (await Emulator.Reaches(disk, seconds: 20)).ShouldBeTrue();
        PracticeDisk.Change(disk, machine => machine.SystemVolume!.Edit(files =>
        {
            files.Delete(Nt5LoaderCheck.Path);
            files.Delete(DetectFileCheck.Path);
            files.Delete(BootListState.Path);
        }));
        PracticeDisk.Change(disk, machine =>
        {
            var plan = Plan.For(machine, RepairTerms.Usual);
            plan.Before.Findings.Select(found => found.Id).ShouldBe(["ntldr-missing", "detect-missing", "boot-list-unused"]);
            plan.After.Verdict.ShouldBe(Verdict.Sound, Text(plan.After));
        });
        (await Emulator.Reaches(disk, seconds: 20)).ShouldBeTrue();
    }

    private static string Text(Walk walk) => string.Join("; ", walk.Findings.Select(finding => $"{finding.Id}: {finding.Seen}"));

    private static async Task<string> OnePartition(Scratch scratch, string kind)
    {
        var disk = kind switch
        {
            "FAT12" => await StartableDisk.OldFat(scratch, 12, 16_384, fragmented: false, LoaderKind.Nt5Loader),
            "FAT16" => await StartableDisk.OldFat(scratch, 16, 4096, fragmented: true, LoaderKind.Nt5Loader),
            "FAT32" => await StartableDisk.Fat32(scratch, "disk", 4096, loader: LoaderKind.Nt5Loader),
            _ => StartableDisk.Ntfs(scratch, "disk", loader: LoaderKind.Nt5Loader, fill: _ => { })
        };
        PracticeDisk.Change(disk, machine =>
        {
            var volume = machine.StartDisk.Volumes[0];
            PracticeNt5.Write(new PracticeSpec { DiskSignature = volume.DiskIdentity.Signature }, volume, volume);
            volume.Edit(files => files.WriteFile(BootListState.Path, Encoding.ASCII.GetBytes(Encoding.ASCII
                .GetString(PracticeNt5.List)
                .Replace("partition(2)", "partition(1)", StringComparison.Ordinal))));
        });
        return disk;
    }

    /// <summary>An older Windows beside a newer one: told where its own chain is broken; the newer one starts.</summary>
    [Theory]
    [InlineData("nothing", null)]
    [InlineData("ntldr", "loader-file")]
    [InlineData("NTDETECT.COM", "detect-file")]
    [InlineData("boot.ini", "boot-list")]
    public void An_older_system_in_the_menu_is_looked_at_too(string lost, string? link)
    {
        using var practice = new Practice();
        practice.Change(machine =>
        {
            var (system, windows) = (machine.SystemVolume!, machine.Installations[0].Volume);
            windows.Edit(files => files.CreateFolder(@"\WINNT\System32\config"));
            system.Edit(files =>
            {
                files.WriteFile(Nt5LoaderCheck.Path, PracticeNt5.Loader());
                files.WriteFile(DetectFileCheck.Path, [0xE9, 0x10, 0x20, 0x30]);
                files.WriteFile(BootListState.Path, Encoding.ASCII.GetBytes(Encoding.ASCII
                    .GetString(PracticeNt5.List)
                    .Replace(@"\WINDOWS", @"\WINNT", StringComparison.Ordinal)));
            });
            StoreFaults.EditStore(machine, store => StoreEditing.AddProgram(
                store,
                default,
                EntryType.Nt5Loader,
                "Earlier Windows",
                machine.DeviceOf(system),
                Nt5LoaderCheck.Path));
            if (lost != "nothing") system.Edit(files => files.Delete($@"\{lost}"));
        });
        var walk = Walk.Of(practice.Machine);
        walk.StopsAt.ShouldBeNull();
        var found = walk.Findings.Where(finding => finding.Id == "older-system-broken").ToList();
        if (link is null) found.ShouldBeEmpty(Text(walk));
        else $"{found.ShouldHaveSingleItem().Seen}".ShouldContain(link);
    }

    private static void DamageRecordOf(string name, DiskVolume volume)
    {
        const int recordBytes = 1024, firstOfUsers = 24, mostRecords = 200;
        var boot = NtfsBootSector.TryRead(volume.Blocks.ReadBytes(0, NtfsBootSector.Size))!;
        var wanted = Encoding.Unicode.GetBytes(name);
        for (var number = firstOfUsers; number < mostRecords; number++)
        {
            var at = (boot.MftCluster * boot.ClusterBytes) + (number * recordBytes);
            if (volume.Blocks.ReadBytes(at, recordBytes).AsSpan().IndexOf(wanted) < 0) continue;
            volume.Blocks.Write(at, "BAAD"u8);
            return;
        }

        throw new InvalidOperationException($"There is no record of {name}.");
    }

    private static Practice Make(string? fault = null)
    {
        var practice = new Practice(fault ?? "boot-list-missing");
        if (fault is null) practice.ChangeSystem(files => files.WriteFile(BootListState.Path, PracticeNt5.List));
        return practice;
    }
}
