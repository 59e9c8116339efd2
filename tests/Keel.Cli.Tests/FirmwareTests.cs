using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>Start entries of a firmware: OVMF's own are read, keel's are accepted by efivar and by OVMF.</summary>
public sealed class FirmwareTests
{
    private const string Global = "8be4df61-93ca-11d2-aa0d-00e098032b8c";

    [Fact]
    public async Task Entries_that_ovmf_wrote_are_read_and_kept()
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "none", "uefi");
        await disk.Make();
        OvmfVariables.Make(scratch["flash"], folder: null);
        (await Emulator.StartUefi(disk.Path, scratch["flash"])).ShouldContain("bootx64", Case.Insensitive);
        OvmfVariables.Extract(scratch["flash"], scratch["vars"]);
        var list = (await KeelProgram.Json(0, "firmware", "list", disk.Path, "--variables", scratch["vars"]))
            .GetProperty("entries")
            .EnumerateArray()
            .ToList();
        list.ShouldContain(entry =>
            entry.GetProperty("title").GetString()!.StartsWith("UEFI QEMU HARDDISK", StringComparison.Ordinal)
                && entry.GetProperty("target").GetString() == "notjudged");
        list.ShouldContain(entry => entry.GetProperty("title").GetString() == "EFI Internal Shell");

        await KeelProgram.Must(
            0,
            "firmware",
            "add",
            disk.Path,
            "--variables",
            scratch["vars"],
            "--yes",
            "--logbook",
            scratch["logbook"]);
        OvmfVariables.Make(scratch["flash2"], scratch["vars"]);
        (await Emulator.StartUefi(disk.Path, scratch["flash2"])).ShouldContain("bootmgfw", Case.Insensitive);
        OvmfVariables.Extract(scratch["flash2"], scratch["vars2"]);
        var after = await KeelProgram.Must(0, "firmware", "list", disk.Path, "--variables", scratch["vars2"]);
        after.ShouldContain("\"Windows Boot Manager\" first");
        after.ShouldContain(@"\EFI\Microsoft\Boot\bootmgfw.efi on");
    }

    [Fact]
    public async Task Variable_files_are_what_efivar_accepts()
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "firmware-entry-missing", "uefi");
        await disk.Make();
        await disk.Json(0, "mend", "--yes");
        var order = await Efivar(disk.Variables, "BootOrder");
        order.ShouldContain("Boot Service Access");
        order.ShouldContain("00 00 01 00");
        var entry = await Efivar(disk.Variables, "Boot0000");
        entry.ShouldContain("W.i.n.d.o");
        entry.ShouldContain("Non-Volatile");
        (await Tool.MustAgree("env", $"EFIVARFS_PATH={disk.Variables}/", "efivar", "-l")).ShouldContain($"{Global}-Boot0000");
    }

    [Fact]
    public async Task Entries_are_dropped_ordered_and_chosen_for_once_and_all_of_it_is_undone()
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "firmware-entries-stale", "uefi");
        await disk.Make();
        var before = await disk.Hash();
        async Task<string> Firmware(int exitCode, params string[] arguments) =>
            await KeelProgram.Must(
                exitCode,
                ["firmware", .. arguments, "--variables", disk.Variables, "--logbook", scratch["logbook"]]);

        (await Firmware(0, "list", disk.Path)).ShouldContain("2 entries lead nowhere");
        await Firmware(2, "drop", "gone", "--yes");
        await Firmware(4, "drop", "gone", "--with", disk.Path);
        (await disk.Hash()).ShouldBe(before);
        await Firmware(0, "drop", "gone", "--with", disk.Path, "--yes");
        await Firmware(0, "order", "UEFI PXE", "--yes");
        (await disk.Json(0, "diagnose")).GetProperty("findings").ToString().ShouldContain("firmware-other-first");
        await Firmware(0, "next", "Windows", "--yes");
        (await Firmware(0, "list")).ShouldContain("NEXT START ALONE");
        (await disk.Start(disk.Variables)).ShouldContain("bootmgfw", Case.Insensitive);
        await Firmware(2, "next", "Board", "--yes");
        await Firmware(0, "order", "0000", "--preview");
        for (var undone = 0; undone < 3; undone++)
            await KeelProgram.Must(0, "undo", disk.Variables, "--yes", "--logbook", scratch["logbook"]);
        (await disk.Hash()).ShouldBe(before);
    }

    [Fact]
    public async Task Undo_refuses_where_the_firmware_has_changed_an_entry_since()
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "firmware-order-wrong", "uefi");
        await disk.Make();
        await disk.Json(0, "mend", "--yes");
        await File.WriteAllBytesAsync(
            System.IO.Path.Combine(disk.Variables, $"BootOrder-{Global}"),
            [7, 0, 0, 0, 9, 0],
            TestContext.Current.CancellationToken);
        var (code, _, error) = await KeelProgram.Run(
            "undo",
            disk.Path,
            "--variables",
            disk.Variables,
            "--yes",
            "--logbook",
            scratch["logbook"]);
        code.ShouldBe(4);
        error.ShouldContain("BootOrder");
        await disk.Undo("--even-if-changed");
    }

    [Theory]
    [InlineData("Boot0000", "0700000001000000")]
    [InlineData("Boot0000", "07")]
    [InlineData("Boot0000", "070000000100000020ff41000000")]
    [InlineData("BootOrder", "070000000000ff")]
    [InlineData("BootOrder", "")]
    public async Task Damaged_variables_are_survived(string name, string hexadecimal)
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "none", "uefi");
        await disk.Make();
        await File.WriteAllBytesAsync(
            System.IO.Path.Combine(disk.Variables, $"{name}-{Global}"),
            Convert.FromHexString(hexadecimal),
            TestContext.Current.CancellationToken);
        await KeelProgram.Must(0, "firmware", "list", disk.Path, "--variables", disk.Variables);
        await KeelProgram.Run("diagnose", disk.Path, "--variables", disk.Variables);
        await disk.Json(0, "mend", "--yes");
        if (Rotation.IsToday(name + hexadecimal, 3))
            (await disk.Start(disk.Variables)).ShouldContain("bootmgfw", Case.Insensitive);
    }

    [Theory]
    [InlineData("/nowhere", 3)]
    [InlineData("/etc/passwd", 3)]
    public async Task A_folder_that_is_none_is_told(string folder, int exitCode) =>
        await KeelProgram.Must(exitCode, "firmware", "list", "--variables", folder);

    private static Task<string> Efivar(string folder, string name) =>
        Tool.MustAgree("env", $"EFIVARFS_PATH={folder}/", "efivar", "-p", "-n", $"{Global}-{name}");
}
