using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>The Windows behind the loader: several faults at once, harmless oddities, start types, traces.</summary>
public sealed class WindowsTests
{
    [Theory]
    [InlineData("bios", "mbr-code-wiped", "kernel-altered")]
    [InlineData("bios", "table-none-active", "store-cells-damaged")]
    [InlineData("bios", "sector-wiped", "system-hive-missing")]
    [InlineData("bios", "manager-cut-short", "storage-driver-disabled")]
    [InlineData("bios", "store-missing", "driver-missing")]
    [InlineData("uefi", "manager-missing", "store-truncated")]
    [InlineData("uefi", "esp-fat-damaged", "entry-wrong-folder")]
    [InlineData("uefi", "gpt-backup-damaged", "loader-zero-filled")]
    [InlineData("uefi", "firmware-entry-missing", "system-hive-damaged")]
    [InlineData("uefi", "fallback-missing", "control-set-missing")]
    [InlineData("bios", "store-empty", "mft-mirror-differs")]
    public async Task Two_faults_are_found_in_one_run_and_mended_by_one_plan(string firmware, string first, string second)
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, $"{first}+{second}", firmware);
        await disk.Make();
        var before = await disk.Hash();
        var found = await disk.Json(1, "diagnose");
        FaultMatrix.Findings(found, "error", "warning").ShouldBe([first, second]);
        found.GetProperty("verdictAfterPlan").GetString().ShouldBe("sound");
        (await disk.Json(0, "mend", "--yes")).GetProperty("after").GetProperty("verdict").GetString().ShouldBe("sound");
        await disk.OthersAgree();
        await disk.Undo();
        (await disk.Hash()).ShouldBe(before);
    }

    [Theory]
    [InlineData("bios", "store change DISK 1 title=Timetables")]
    [InlineData("uefi", "store change DISK 1 title=Timetables")]
    [InlineData("bios", "store add program DISK --volume 1 --program-file \\bootmgr --title Other")]
    [InlineData("uefi", "services change DISK beep disabled")]
    [InlineData("bios", "services change DISK stornvme disabled")]
    public async Task Harmless_changes_leave_the_verdict_sound(string firmware, string command)
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "none", firmware);
        await disk.Make();
        await KeelProgram.Must(
            0,
            [.. command.Split(' ').Select(word => word == "DISK" ? disk.Path : word), "--yes", "--logbook", scratch["logbook"]]);
        (await disk.Json(0, "diagnose")).GetProperty("verdict").GetString().ShouldBe("sound");
    }

    [Theory]
    [InlineData("mmd -i ESP ::EFI/board; mcopy -i ESP ::EFI/Boot/bootx64.efi x; mcopy -i ESP x ::EFI/board/start.efi")]
    [InlineData("mattrib -i ESP +s ::EFI/Microsoft/Boot/BCD")]
    [InlineData("mren -i ESP ::EFI/Microsoft ::EFI/MICROSOF; mren -i ESP ::EFI/MICROSOF ::EFI/microsoft")]
    [InlineData("sgdisk -c 3:'Old name' -t 4:0FC63DAF-8483-4772-8E79-3D69D8477DE4 DISK")]
    [InlineData("sgdisk -r 3:4 DISK; sgdisk -r 3:4 DISK")]
    public async Task Harmless_oddities_of_a_disk_are_no_alarm(string script)
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "none", "uefi");
        await disk.Make();
        await Tool.MustAgree(
            "bash",
            "-c",
            $"cd {scratch.Folder}; "
                + script
                    .Replace("ESP", $"{disk.Path}@@1M", StringComparison.Ordinal)
                    .Replace("DISK", disk.Path, StringComparison.Ordinal));
        (await disk.Json(0, "diagnose")).GetProperty("verdict").GetString().ShouldBe("sound");
    }

    [Fact]
    public async Task Two_disks_with_a_Windows_each_are_walked_as_one_machine()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        await KeelProgram.Must(0, "drill", "new", "none", "--firmware", "uefi", "--out", scratch["second.img"]);
        var found = await KeelProgram.Json(0, "diagnose", disk, "--with", scratch["second.img"]);
        found.GetProperty("verdict").GetString().ShouldBe("sound");
        found.GetProperty("installations").GetArrayLength().ShouldBe(2);
        var clone = await KeelProgram.Json(1, "diagnose", disk, "--with", await Copy(scratch, disk));
        FaultMatrix.Findings(clone, "error", "warning").ShouldBe(["clone-beside-original"]);
    }

    [Fact]
    public async Task Start_types_are_listed_changed_and_taken_back()
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "none", "bios");
        await disk.Make();
        var before = await disk.Hash();
        (await KeelProgram.Must(0, "services", "list", disk.Path)).ShouldContain("drivers start with the loader");
        await disk.Must(1, "services change", "disk", "disabled", "--yes");
        var list = (await KeelProgram.Json(0, "services", "list", disk.Path, "disk")).GetProperty("services");
        list[0].GetProperty("start").GetString().ShouldBe("disabled");
        FaultMatrix.Findings(await disk.Json(1, "diagnose"), "error").ShouldBe(["start-driver-disabled"]);
        var hive = Images.Part(disk.Path, scratch, "windows", 65, 256);
        await Tool.MustAgree("sh", "-c", $"ntfscat -f {hive} Windows/System32/config/SYSTEM > {scratch["SYSTEM"]}");
        (await Tool.MustAgree(
            "reglookup",
            "-p",
            "/ControlSet001/Services/disk/Start",
            scratch["SYSTEM"])).ShouldContain("0x00000004");
        await Tool.MustAgree("ntfsfix", "-n", hive);
        await disk.Json(0, "mend", "--yes");
        for (var undone = 0; undone < 2; undone++)
            await KeelProgram.Must(0, "undo", disk.Path, "--yes", "--logbook", scratch["logbook"]);
        (await disk.Hash()).ShouldBe(before);
        var (code, _, error) = await KeelProgram.Run("services", "change", disk.Path, "stor", "boot");
        code.ShouldBe(2);
        error.ShouldContain("storahci");
    }

    [Theory]
    [InlineData("kernel-altered", "c0000221", "fits", "kernel-altered")]
    [InlineData("store-missing+kernel-altered", "c0000221", "fitsanother", "kernel-altered")]
    [InlineData("kernel-altered", "0x7b", "doesnotfit", "AHCI or RAID")]
    [InlineData("none", "no bootable device", "doesnotfit", "start order")]
    [InlineData("none", "ef", "doesnotfit", "restore point")]
    public async Task A_reported_code_fits_or_does_not_and_then_it_says_where_to_look(
        string fault,
        string reported,
        string fit,
        string words)
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, fault, "bios");
        await disk.Make();
        var found = (await disk.Json(fault == "none" ? 0 : 1, "diagnose", "--code", reported)).GetProperty("reported");
        found.GetProperty("fit").GetString().ShouldBe(fit);
        found.ToString().ShouldContain(words);
    }

    [Fact]
    public async Task Traces_of_earlier_starts_are_history_and_not_findings()
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "none", "bios");
        await disk.Make();
        var windows = Images.Part(disk.Path, scratch, "windows", 65, 256);
        await Tool.MustAgree("bash", "-c", $"""
            cd {scratch.Folder}
            printf '\xff\xfe' > trail
            printf 'Root cause found: a driver\r\n' | iconv -t utf-16le >> trail
            printf '\1\0\0\0\1\0\0\0\1\0\1\0' > bootstat
            printf 'x' > pending.xml
            ntfscp -f {windows} bootstat Windows/bootstat.dat
            ntfscp -f {windows} trail Windows/ntbtlog.txt
            ntfscp -f {windows} pending.xml Windows/WinSxS/pending.xml
            dd if={windows} of={disk.Path} bs=1M seek=65 conv=notrunc status=none
            """);
        var found = await disk.Json(0, "diagnose");
        found.GetProperty("verdict").GetString().ShouldBe("sound");
        var history = found.GetProperty("history").ToString();
        foreach (var words in (string[])["the last shutdown did NOT", "Root cause found: a driver", "was not finished"])
            history.ShouldContain(words);
    }

    [Fact]
    public async Task A_random_drill_keeps_its_answer_until_it_is_asked_for()
    {
        using var scratch = new Scratch();
        for (var round = 0; round < 4; round++)
        {
            var path = scratch[$"random{round}.img"];
            var made = await KeelProgram.Must(0, "drill", "new", "random", "--out", path);
            var answer = (await KeelProgram.Json(1, "drill", "check", path, "--answer"))
                .GetProperty("answer")
                .EnumerateArray()
                .Select(fault => fault.GetString()!)
                .ToList();
            foreach (var fault in answer)
            {
                made.ShouldNotContain(fault);
                (await File.ReadAllTextAsync(path + ".sealed", TestContext.Current.CancellationToken)).ShouldNotContain(fault);
            }

            (await KeelProgram.Must(1, "drill", "check", path)).ShouldContain("NOT YET");
            string[] variables = Directory.Exists(path + ".variables") ? ["--variables", path + ".variables"] : [];
            await KeelProgram.Must(0, ["mend", path, .. variables, "--yes", "--logbook", scratch["logbook"]]);
            (await KeelProgram.Must(0, "drill", "check", path)).ShouldContain("WELL");
        }
    }

    [Theory]
    [InlineData("bios")]
    [InlineData("uefi")]
    public async Task The_first_screen_says_what_is_broken_and_what_to_type(string firmware)
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "kernel-missing", firmware);
        await disk.Make();
        var lines = (await disk.Must(1, "diagnose")).Split('\n');
        lines.ShouldAllBe(line => line.Length <= 80 || line.StartsWith("  keel "));
        var screen = string.Join('\n', lines.Take(25)).Replace("\n  ", " ", StringComparison.Ordinal);
        screen.ShouldStartWith("BROKEN at kernel-files");
        screen.ShouldContain($"Next: keel mend {disk.Path}");
        screen.ShouldContain("kernel-files");
    }

    private static async Task<string> Copy(Scratch scratch, string disk)
    {
        await Tool.MustAgree("cp", "--sparse=always", disk, scratch["copy.img"]);
        return scratch["copy.img"];
    }
}
