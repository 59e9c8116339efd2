using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>Boot files listed, marked and recreated, in whole sequences.</summary>
public sealed class BootFileTests
{
    [Fact]
    public async Task An_efi_system_partition_is_rebuilt_from_nothing()
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "none", "uefi");
        await disk.Make();
        await Tool.MustAgree(
            "dd",
            "if=/dev/zero",
            $"of={disk.Path}",
            "bs=1M",
            "seek=1",
            "count=100",
            "conv=notrunc",
            "status=none");
        var before = await disk.Hash();
        var found = await disk.Json(1, "diagnose");
        FaultMatrix.Findings(found, "error").ShouldBe(["esp-no-file-system", "esp-formatted", "store-missing"]);
        var (code, _, error) = await KeelProgram.Run("mend", disk.Path, "--yes", "--logbook", scratch["logbook"]);
        code.ShouldBe(4);
        error.ShouldContain("--new-file-system");
        (await disk.Hash()).ShouldBe(before);
        (await disk.Start(disk.Variables)).ShouldBe("");

        await disk.Must(0, "files renew", "--new-file-system", "--label", "BOOT", "--serial", "B4AC-0042", "--yes");
        (await disk.Json(0, "diagnose")).GetProperty("verdict").GetString().ShouldBe("sound");
        await disk.OthersAgree();
        (await Tool.MustAgree("mdir", "-i", scratch["system.volume"], "::")).ShouldContain("Volume Serial Number is B4AC-0042");
        await disk.StartsAfter();
        await KeelProgram.Must(0, "undo", disk.Path, "--yes", "--logbook", scratch["logbook"]);
        (await disk.Hash()).ShouldBe(before);
    }

    [Theory]
    [InlineData("bios", @"\bootmgr")]
    [InlineData("uefi", @"\EFI\Microsoft\Boot\bootmgfw.efi")]
    public async Task A_deleted_manager_is_noticed_and_recreated_with_its_usual_attributes(string firmware, string path)
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "manager-missing", firmware);
        await disk.Make();
        var missing = await KeelProgram.Must(1, "files", "list", disk.Path);
        missing.ShouldContain("MISSING");
        await disk.Must(0, "files renew", "--yes");
        var files = (await KeelProgram.Json(0, "files", "list", disk.Path)).GetProperty("files");
        var manager = files.EnumerateArray().First(file => file.GetProperty("path").GetString() == path);
        manager
            .GetProperty("attributes")
            .EnumerateArray()
            .Select(mark => mark.GetString())
            .ShouldBe(firmware == "bios" ? ["readonly", "hidden", "system", "archive"] : ["archive"]);
        manager.GetProperty("version").GetString().ShouldBe("10.0.19045.1");
        var again = await KeelProgram.Must(0, "files", "renew", disk.Path, "--yes", "--logbook", scratch["logbook"]);
        again.ShouldContain("nothing was written");
    }

    [Fact]
    public async Task Every_kind_of_wrong_file_is_named_and_put_right()
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "none", "uefi");
        await disk.Make();
        var esp = $"{disk.Path}@@1M";
        await Tool.MustAgree("bash", "-c", $"""
            cd {scratch.Folder}; : > empty; head -c 30000 /dev/zero > zeros
            mcopy -i {esp} ::EFI/Microsoft/Boot/memtest.efi whole; head -c 9000 whole > short
            mcopy -o -i {esp} empty ::EFI/Microsoft/Boot/en-US/bootmgfw.efi.mui
            mcopy -o -i {esp} short ::EFI/Microsoft/Boot/memtest.efi
            mcopy -o -i {esp} zeros ::EFI/Boot/bootx64.efi
            mdel -i {esp} ::EFI/Microsoft/Boot/bootmgfw.efi; mmd -i {esp} ::EFI/Microsoft/Boot/bootmgfw.efi
            mattrib -i {esp} +r ::EFI/Microsoft/Boot/BCD
            """);
        var list = await KeelProgram.Must(1, "files", "list", disk.Path);
        foreach (var words in (string[])["EMPTY", "CUT SHORT", "ZEROS", "FOLDER", "readonly, and"]) list.ShouldContain(words);
        await disk.Must(1, "files renew", "--yes");
        await disk.Must(0, "files mark", @"\EFI\Microsoft\Boot\BCD", "--usual", "--yes");
        await KeelProgram.Must(0, "files", "list", disk.Path);
        (await Tool.MustAgree("mdir", "-b", "-i", esp, "::EFI/Microsoft/Boot")).ShouldContain("bootmgfw.efi.aside1");
        await disk.OthersAgree();
    }

    [Theory]
    [InlineData("uefi", "--from volume:1", "There is one on volume 3")]
    [InlineData("uefi", "--for bios", "laid out for UEFI")]
    [InlineData("uefi", "--for both", "laid out for UEFI")]
    [InlineData("bios", "--for uefi", "UEFI firmware reads FAT")]
    [InlineData("bios", "--new-file-system", "formats nothing else")]
    [InlineData("bios", "--from /etc", "holds no boot files")]
    [InlineData("bios", "--from /nowhere", "not a folder")]
    [InlineData("uefi", "--new-file-system --label a/b", "can't be the label")]
    public async Task What_would_be_wrong_is_refused_before_the_first_change(string firmware, string options, string words)
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "none", firmware);
        await disk.Make();
        var before = await disk.Hash();
        var (code, _, error) = await KeelProgram.Run([
            "files",
            "renew",
            disk.Path,
            "--yes",
            "--logbook",
            scratch["logbook"],
            .. options.Split(' ')
        ]);
        code.ShouldBeInRange(2, 4);
        error.Replace("\n      ", " ", StringComparison.Ordinal).ShouldContain(words);
        (await disk.Hash()).ShouldBe(before);
        Directory.Exists(scratch["logbook"]).ShouldBeFalse();
    }

    [Theory]
    [InlineData("medium")]
    [InlineData("windows")]
    public async Task Files_come_from_a_folder_where_one_is_named(string kind)
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "none", "uefi");
        await disk.Make();
        await Tool.MustAgree("bash", "-c", $"""
            cd {scratch.Folder}; mkdir medium windows; mcopy -s -i {disk.Path}@@1M ::EFI medium/EFI
            mkdir -p windows/Windows/Boot; mcopy -s -i {disk.Path}@@1M ::EFI/Microsoft/Boot windows/Windows/Boot/EFI
            rm windows/Windows/Boot/EFI/BCD
            dd if=/dev/zero of={disk.Path} bs=1M seek=117 count=4 conv=notrunc status=none
            mdel -i {disk.Path}@@1M ::EFI/Microsoft/Boot/bootmgfw.efi ::EFI/Boot/bootx64.efi
            """);
        await disk.Must(1, "files renew", "--from", scratch[kind], "--yes");
        var said = await disk.Start(disk.Variables);
        said.ShouldContain(@"\EFI\Microsoft\Boot\bootmgfw.efi", Case.Insensitive);
        await Tool.MustAgree("fsck.fat", "-n", Images.Part(disk.Path, scratch, "esp", 1, 100));
    }

    [Fact]
    public async Task Too_little_room_is_refused_before_the_first_change()
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "manager-missing", "uefi");
        await disk.Make();
        await Tool.MustAgree(
            "bash",
            "-c",
            $"head -c 101000000 /dev/urandom > {scratch["big"]}; mcopy -i {disk.Path}@@1M {scratch["big"]} ::big.bin; head -c "
                + $"2650000 /dev/urandom > {scratch["more"]}; mcopy -i {disk.Path}@@1M {scratch["more"]} ::more.bin");
        var before = await disk.Hash();
        var (code, _, error) = await KeelProgram.Run(
            "files",
            "renew",
            disk.Path,
            "--all",
            "--yes",
            "--logbook",
            scratch["logbook"]);
        code.ShouldBe(4, error);
        error.ShouldContain("too little room");
        (await disk.Hash()).ShouldBe(before);
    }

    [Theory]
    [InlineData("bios", @"\Boot\BCD", "+hidden +system", "readonly, hidden, system, archive", "ntfs")]
    [InlineData("uefi", @"/EFI/Microsoft/Boot/BCD", "+hidden -archive", "hidden", "fat")]
    public async Task Attributes_are_shown_and_changed_on_both_file_systems(
        string firmware,
        string path,
        string changes,
        string words,
        string system)
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, system == "ntfs" ? "files-hidden-locked" : "none", firmware);
        await disk.Make();
        await KeelProgram.Run([
            "files",
            "mark",
            disk.Path,
            path,
            .. changes.Split(' '),
            "--yes",
            "--logbook",
            scratch["logbook"]
        ]);
        (await KeelProgram.Must(0, "files", "mark", disk.Path, path)).ShouldContain($"is {words}.");
        if (system == "fat")
            (await Tool.MustAgree("mattrib", "-i", $"{disk.Path}@@1M", "::EFI/Microsoft/Boot/BCD")).ShouldContain(" H ");
        await KeelProgram.Must(0, "files", "mark", disk.Path, path, "--usual", "--yes", "--logbook", scratch["logbook"]);
        (await KeelProgram.Must(0, "files", "mark", disk.Path, path)).ShouldContain("is archive.");
        (await KeelProgram.Run("files", "mark", disk.Path, path, "+shiny")).ExitCode.ShouldBe(2);
        (await KeelProgram.Run("files", "mark", disk.Path, @"\gone.txt")).ExitCode.ShouldBe(3);
    }

    /// <summary>The old firmware entry of a lost EFI system partition is not dropped while no new partition is made.</summary>
    [Fact]
    public async Task Without_a_word_for_the_new_file_system_nothing_of_that_repair_is_written()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "esp-missing");
        string[] variables = ["--variables", $"{disk}.variables"];
        var before = Directory.GetFiles(variables[1]).Order(StringComparer.Ordinal).SelectMany(File.ReadAllBytes).ToArray();
        var (code, _, error) = await KeelProgram.Run(["mend", disk, "--yes", "--logbook", scratch["logbook"], .. variables]);
        code.ShouldBe(4);
        error.ShouldContain("--new-file-system");
        Directory.GetFiles(variables[1]).Order(StringComparer.Ordinal).SelectMany(File.ReadAllBytes).ShouldBe(before);
        Directory.Exists(scratch["logbook"]).ShouldBeFalse();
    }
}
