using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>
/// The rescue medium starts on both firmwares, and leads to a disk that starts again: in QEMU, with the image that ./rescue made.
/// </summary>
public sealed class RescueMediumTests
{
    private static readonly string[] Bios = ["-machine", "pc", "-m", "512"];

    [Fact]
    public async Task On_BIOS_the_guided_session_mends_a_disk_by_the_keyboard()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        await using (var machine = await RescueMachine.Start(
            scratch,
            Bios,
            [.. RescueMachine.Stick(RescueMachine.Image), "-drive", $"format=raw,file={disk},if=ide"]))
        {
            await machine.UntilScreen("Number (1 is taken", seconds: 240);
            await machine.Type("\n");
            await machine.UntilScreen("What does the screen of the machine say?");
            await machine.Type("1");
            await machine.Type("c000000f\n");
            await machine.UntilScreen("1  mend it");
            await machine.Type("1");
            await machine.UntilScreen("[y]es / [n]o");
            await machine.Type("y\n");
            await machine.UntilScreen("Written, read back, and walked again.");
            await machine.UntilScreen("gone after a restart");
            await machine.Type("q");
            await machine.UntilScreen("o: off >");
            await machine.Type("o\n");
            await machine.UntilOff();
        }

        (await Emulator.Reaches(disk)).ShouldBeTrue();
    }

    [Fact]
    public async Task With_Secure_Boot_it_mends_a_disk_over_the_serial_line()
    {
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
            await machine.UntilSerial("keel on the serial line", seconds: 240);
            await machine.Send("s");
            await machine.UntilSerial("What does the screen of the machine say?", seconds: 240);
            await machine.Send("2");
            await machine.UntilSerial("1  mend it");
            await machine.Send("1");
            await machine.UntilSerial("[y]es / [n]o");
            await machine.Send("a\n");
            await machine.UntilSerial("Written, read back, and walked again.");
            await machine.Send("q");
            await machine.UntilSerial("o: off >");
            await machine.Send("o\n");
            await machine.UntilOff();
        }

        OvmfVariables.Make(scratch["flash.fd"], disk + ".variables");
        (await Emulator.StartUefi(disk, scratch["flash.fd"])).ShouldContain("STAND-IN REACHED");
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
