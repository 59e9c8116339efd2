using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>
/// The rescue medium starts on both firmwares, and leads to a disk that starts again: in QEMU, with the image that ./rescue made.
/// </summary>
public sealed class RescueMediumTests
{
    private const string OtherDay = "its turn is tomorrow; KEEL_WHOLE=1 runs all";
    private static readonly string[] Bios = ["-machine", "pc", "-m", "512"];

    [Fact]
    public async Task On_BIOS_the_guided_session_mends_a_disk_by_the_keyboard()
    {
        Assert.SkipUnless(Rotation.IsTurnOf(0, 2), OtherDay);
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        await using (var machine = await RescueMachine.Start(
            scratch,
            Bios,
            [.. RescueMachine.Stick(RescueMachine.Image), "-drive", $"format=raw,file={disk},if=ide"]))
        {
            await Begin(machine);
            await machine.Type("1\n");
            await machine.Type("c000000f\n");
            await machine.UntilScreen("1  mend it");
            await Picture(machine, "rescue-found.png");
            await machine.Type("1\n");
            await machine.UntilScreen("[y]es / [n]o");
            await machine.Type("y\n");
            await machine.UntilScreen("Written, read back, and walked again.");
            await machine.UntilScreen("gone after a restart");
            await Picture(machine, "rescue-mended.png");
            await Leave(machine, "o");
        }

        (await Emulator.Reaches(disk)).ShouldBeTrue();
    }

    [Fact]
    public async Task With_Secure_Boot_it_mends_a_disk_over_the_serial_line()
    {
        Assert.SkipUnless(Rotation.IsTurnOf(1, 2), OtherDay);
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing", firmware: "uefi");
        await using (var machine = await RescueMachine.Start(
            scratch,
            SecureBoot(scratch),
            [
                .. RescueMachine.Stick(RescueMachine.Image),
                "-drive", $"format=raw,file={disk},if=none,id=disk", "-device", "nvme,drive=disk,serial=BF1041"
            ]))
        {
            await MendOverSerialLine(machine, "a");
        }

        OvmfVariables.Make(scratch["flash.fd"], disk + ".variables");
        (await Emulator.StartUefi(disk, scratch["flash.fd"])).ShouldContain("STAND-IN REACHED");
    }

    /// <summary>What nobody sits at: a network start with the kernel and the system of the image.</summary>
    [Fact]
    public async Task Unattended_it_runs_what_the_kernel_was_told_and_switches_off()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        await using (var machine = await RescueMachine.Start(
            scratch,
            Bios,
            [
                .. RescueMachine.Network("console=ttyS0 keel.run=\"mend --yes\""),
                "-drive", $"format=raw,file={disk},if=none,id=disk", "-device", "virtio-blk-pci,drive=disk"
            ]))
        {
            var said = await machine.UntilSerial("keel.run end", seconds: 120);
            said[said.IndexOf("keel.run begin", StringComparison.Ordinal)..].ShouldContain("SOUND: the boot chain is whole");
            await machine.UntilOff();
        }

        await KeelProgram.Must(0, "drill", "check", disk);
        (await Emulator.Reaches(disk)).ShouldBeTrue();
    }

    /// <summary>A machine that encrypts its disk, and a stick whose owner put the list of keys beside the logbook.</summary>
    [Fact(Explicit = true)]
    public async Task Unattended_it_mends_behind_the_lock_with_the_keys_on_the_stick()
    {
        const string nameOfList = "recovery-keys.txt";
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "encrypted-loader-missing");
        var stick = await WritableStick(scratch);
        await File.WriteAllTextAsync(
            scratch[nameOfList],
            $"A06A2517 {(await File.ReadAllTextAsync($"{disk}.key")).Trim()}\n");
        var parts = System.Text.Json.JsonDocument.Parse(await Tool.MustAgree("sfdisk", "--json", stick));
        var log = parts.RootElement.GetProperty("partitiontable").GetProperty("partitions").EnumerateArray()
            .MaxBy(part => part.GetProperty("start").GetInt64());
        var at = $"{stick}@@{log.GetProperty("start").GetInt64() * 512}";
        await Tool.MustAgree("mcopy", "-i", at, scratch[nameOfList], $"::{nameOfList}");
        await using (var machine = await RescueMachine.Start(
            scratch,
            Bios,
            [
                .. RescueMachine.Network("console=ttyS0 keel.run=\"mend --yes\""),
                "-drive", $"format=raw,file={stick},if=none,id=stick", "-device", "qemu-xhci",
                "-device", "usb-storage,drive=stick,removable=on", "-drive", $"format=raw,file={disk},if=ide"
            ]))
        {
            var said = await machine.UntilSerial("keel.run end", seconds: 120);
            said[said.IndexOf("keel.run begin", StringComparison.Ordinal)..].ShouldContain("SOUND: the boot chain is whole");
            await machine.UntilOff();
        }

        (await KeelProgram.Must(0, "diagnose", disk, "--unlock", $"{disk}.key")).ShouldStartWith("SOUND");
        (await Tool.MustAgree("mdir", "-i", at, "-b", "::runs")).ShouldContain(".txt");
    }

    [Theory(Explicit = true)]
    [InlineData("ide")]
    [InlineData("ahci")]
    [InlineData("nvme")]
    [InlineData("virtio-blk")]
    [InlineData("virtio-scsi")]
    [InlineData("usb")]
    [InlineData("sd")]
    [InlineData("pvscsi")]
    [InlineData("megasas")]
    public async Task A_disk_behind_any_usual_controller_is_found_and_mended(string controller)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "mbr-code-wiped");
        // An SD card has a size that is a power of two.
        if (controller == "sd") await Tool.MustAgree("truncate", "-s", "512M", disk);
        var more = controller is "usb" or "sd" ? " --removable" : "";
        await using (var machine = await RescueMachine.Start(
            scratch,
            ["-machine", controller == "ahci" ? "q35" : "pc", "-m", "512"],
            [
                .. RescueMachine.Network($"console=ttyS0 keel.run=\"mend --yes{more}\""),
                "-drive", $"format=raw,file={disk},if=none,id=disk", .. Controller(controller)
            ]))
        {
            (await machine.UntilSerial("keel.run end", seconds: 180)).ShouldContain("keel.run end 0");
            await machine.UntilOff();
        }

        (await Emulator.Reaches(disk)).ShouldBeTrue();
    }

    [Fact(Explicit = true)]
    public async Task The_logbook_on_the_stick_outlives_a_restart_and_takes_the_repair_back()
    {
        // On a German keyboard y and z have changed places, and the hyphen is where others have the slash.
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        var before = await Images.Hash(disk);
        var stick = await WritableStick(scratch);
        string[] parts = [.. RescueMachine.Stick(stick, isReadOnly: false), "-drive", $"format=raw,file={disk},if=ide"];
        await using (var machine = await RescueMachine.Start(scratch, Bios, parts))
        {
            await Begin(machine, keyboard: "3");
            await machine.UntilScreen("can be taken back after a restart");
            await machine.Type("2\n");
            await machine.UntilScreen("1  mend it");
            await machine.Type("1\n");
            await machine.UntilScreen("[y]es / [n]o");
            await machine.Type("z\n");
            await machine.UntilScreen("Written, read back, and walked again.");
            await Leave(machine, "r");
        }

        (await Images.Hash(disk)).ShouldNotBe(before);
        (await Emulator.Reaches(disk)).ShouldBeTrue();
        await using (var machine = await RescueMachine.Start(scratch, Bios, parts))
        {
            await Begin(machine, keyboard: "3");
            await machine.Type("q");
            await machine.UntilScreen("o: off >");
            await machine.Type("s\n");
            await machine.UntilScreen("keel:/root#");
            await machine.Type("keel undo //zes\n");
            await machine.UntilScreen("is back as it was");
            await machine.Type("poweroff\n");
            await machine.UntilOff();
        }

        (await Images.Hash(disk)).ShouldBe(before);
        await KeelProgram.Must(0, "stick", "check", stick);
    }

    /// <summary>
    /// The fallback file is gone, and the firmware has no entry: only the entry that keel wrote through the running firmware
    /// leads to the boot manager.
    /// </summary>
    [Fact(Explicit = true)]
    public async Task A_firmware_entry_is_written_through_the_running_firmware()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "firmware-entry-missing", firmware: "uefi");
        string[] firmware = Uefi(scratch);
        await using (var machine = await RescueMachine.Start(
            scratch,
            firmware,
            [
                .. RescueMachine.Stick(RescueMachine.Image),
                "-drive", $"format=raw,file={disk},if=none,id=disk", "-device", "nvme,drive=disk,serial=BF1041"
            ]))
        {
            await MendOverSerialLine(machine, "y");
        }

        await using var alone = await RescueMachine.Start(
            scratch,
            firmware,
            "-drive", $"format=raw,file={disk},if=none,id=disk", "-device", "nvme,drive=disk,serial=BF1041");
        var said = await alone.UntilSerial("STAND-IN REACHED", seconds: 120);
        said.ShouldContain("Windows Boot Manager");
    }

    private static async Task<string> WritableStick(Scratch scratch)
    {
        var stick = scratch["stick.img"];
        await using (var file = File.Create(stick)) file.SetLength(96 * 1024 * 1024);
        await KeelProgram.Must(0, "stick", "write", RescueMachine.Image, stick, "--erase", "stick.img");
        return stick;
    }

    /// <summary>A picture for the docs, where KEEL_PICTURES names their folder.</summary>
    private static async Task Picture(RescueMachine machine, string name)
    {
        if (Environment.GetEnvironmentVariable("KEEL_PICTURES") is { Length: > 0 } folder)
            await machine.Picture(Path.Combine(folder, name));
    }

    private static async Task MendOverSerialLine(RescueMachine machine, string answer)
    {
        await machine.UntilSerial("keel on the serial line", seconds: 240);
        await machine.Send("s");
        await machine.UntilSerial("What does the screen of the machine say?", seconds: 240);
        await machine.Send("2\r");
        await machine.UntilSerial("1  mend it");
        await machine.Send("1\r");
        await machine.UntilSerial("[y]es / [n]o");
        await machine.Send($"{answer}\n");
        await machine.UntilSerial("Written, read back, and walked again.");
        await machine.Send("q");
        await machine.UntilSerial("o: off >");
        await machine.Send("o\n");
        await machine.UntilOff();
    }

    private static async Task Begin(RescueMachine machine, string keyboard = "")
    {
        await machine.UntilScreen("Number (1 is taken", seconds: 240);
        await machine.Type($"{keyboard}\n");
        await machine.UntilScreen("What does the screen of the machine say?");
    }

    private static async Task Leave(RescueMachine machine, string key)
    {
        await machine.Type("q");
        await machine.UntilScreen("o: off >");
        await machine.Type($"{key}\n");
        await machine.UntilOff();
    }

    private static string[] Controller(string name) => name switch
    {
        "ide" => ["-device", "ide-hd,drive=disk"],
        "ahci" => ["-device", "ide-hd,drive=disk,bus=ide.0"],
        "nvme" => ["-device", "nvme,drive=disk,serial=BF1041"],
        "virtio-blk" => ["-device", "virtio-blk-pci,drive=disk"],
        "virtio-scsi" => ["-device", "virtio-scsi-pci", "-device", "scsi-hd,drive=disk"],
        "usb" => ["-device", "qemu-xhci", "-device", "usb-storage,drive=disk"],
        "sd" => ["-device", "sdhci-pci", "-device", "sd-card,drive=disk"],
        "pvscsi" => ["-device", "pvscsi", "-device", "scsi-hd,drive=disk"],
        _ => ["-device", "megasas", "-device", "scsi-hd,drive=disk"]
    };

    private static string[] Uefi(Scratch scratch)
    {
        File.Copy("/usr/share/OVMF/OVMF_VARS_4M.fd", scratch["variables.fd"]);
        return
        [
            "-machine", "q35", "-m", "768",
            "-drive", "if=pflash,format=raw,unit=0,readonly=on,file=/usr/share/OVMF/OVMF_CODE_4M.fd",
            "-drive", $"if=pflash,format=raw,unit=1,file={scratch["variables.fd"]}"
        ];
    }

    private static string[] SecureBoot(Scratch scratch)
    {
        File.Copy("/usr/share/OVMF/OVMF_VARS_4M.ms.fd", scratch["variables.fd"]);
        return
        [
            "-machine", "q35,smm=on", "-m", "768", "-global", "driver=cfi.pflash01,property=secure,value=on",
            "-drive", "if=pflash,format=raw,unit=0,readonly=on,file=/usr/share/OVMF/OVMF_CODE_4M.ms.fd",
            "-drive", $"if=pflash,format=raw,unit=1,file={scratch["variables.fd"]}"
        ];
    }
}
