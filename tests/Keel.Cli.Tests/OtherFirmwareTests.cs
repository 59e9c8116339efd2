using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>What is refused on a layout for the other firmware.</summary>
public sealed class OtherFirmwareTests
{
    [Theory]
    [InlineData("mbr", "rewrite")]
    [InlineData("sector", "rewrite")]
    public async Task Boot_code_is_refused_on_a_uefi_layout_and_the_reason_told(params string[] command)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "gpt-backup-damaged");
        var (code, _, error) = await KeelProgram.Run([.. command, disk, "--yes", "--logbook", scratch["logbook"]]);
        code.ShouldBe(4);
        error.ShouldContain("UEFI firmware uses no boot code");
    }

    [Fact]
    public async Task A_disk_for_the_other_firmware_is_told_explained_and_left_alone()
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, "layout-firmware-mismatch", "bios");
        await disk.Make();
        var before = await disk.Hash();
        var found = await disk.Json(1, "diagnose");
        FaultMatrix.Findings(found, "error", "warning").ShouldBe(["layout-firmware-mismatch"]);
        found.GetProperty("left")[0].GetProperty("todo").GetString()!.ShouldContain("firmware's settings");
        await disk.Json(1, "mend", "--yes");
        (await disk.Hash()).ShouldBe(before);
        (await disk.Start(disk.Variables)).ShouldBe("");

        (await KeelProgram.Json(0, "diagnose", disk.Path)).GetProperty("verdict").GetString().ShouldBe("sound");
        FaultMatrix
            .Findings(await KeelProgram.Json(1, "diagnose", disk.Path, "--firmware", "uefi"), "error")
            .ShouldBe(["layout-firmware-mismatch"]);
        var uefi = await KeelProgram.Practice(scratch, "gpt-backup-damaged", "uefi.img");
        FaultMatrix
            .Findings(await KeelProgram.Json(1, "diagnose", uefi, "--firmware", "bios"), "error")
            .ShouldBe(["layout-firmware-mismatch"]);
    }
}
