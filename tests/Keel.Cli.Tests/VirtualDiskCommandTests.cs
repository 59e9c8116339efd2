using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>
/// The built program on virtual disks: the same plan as on the raw disk, the same disk after it, started in QEMU.
/// </summary>
public sealed class VirtualDiskCommandTests
{
    [Theory]
    [InlineData("vpc", "subformat=dynamic,force_size", "mbr-code-wiped")]
    [InlineData("vpc", "subformat=fixed,force_size", "store-missing")]
    [InlineData("vhdx", "subformat=dynamic,block_size=1M", "mbr-code-wiped")]
    [InlineData("vhdx", "subformat=dynamic", "manager-missing")]
    [InlineData("qcow2", "cluster_size=64k", "mbr-code-wiped")]
    [InlineData("vmdk", "subformat=monolithicSparse", "store-missing")]
    [InlineData("vdi", "static=off", "manager-missing")]
    public async Task A_virtual_disk_is_mended_as_the_raw_disk_is(string format, string options, string fault)
    {
        using var scratch = new Scratch();
        var raw = await KeelProgram.Practice(scratch, fault, "raw.img");
        var image = scratch["disk.image"];
        await Tool.MustAgree("qemu-img", "convert", "-f", "raw", "-O", format, "-o", options, raw, image);
        var before = await AsRaw(format, image, scratch["before"]);
        var rawPlan = await KeelProgram.Json(1, "diagnose", raw);
        var plan = await KeelProgram.Json(1, "diagnose", image);
        plan.GetProperty("plan").GetArrayLength().ShouldBe(rawPlan.GetProperty("plan").GetArrayLength());
        plan.GetProperty("findings").GetRawText().Replace(image, raw, StringComparison.Ordinal)
            .ShouldBe(rawPlan.GetProperty("findings").GetRawText());

        var logbook = scratch["logbook"];
        await KeelProgram.Must(0, "mend", image, "--yes", "--logbook", logbook);

        (await KeelProgram.Must(0, "diagnose", image)).ShouldStartWith("SOUND");
        if (format is "vhdx" or "qcow2") await Tool.MustAgree("qemu-img", "check", "-q", "-f", format, image);
        (await Emulator.Start(image, seconds: 30, format: format)).ShouldContain("STAND-IN REACHED drive 80 serial ");
        (await KeelProgram.Must(0, "diagnose", await AsRaw(format, image, scratch["after"]))).ShouldStartWith("SOUND");
        await KeelProgram.Must(0, "undo", image, "--yes", "--logbook", logbook);
        (await Images.Hash(await AsRaw(format, image, scratch["undone"]))).ShouldBe(await Images.Hash(before));
    }

    [Fact]
    public async Task A_mended_vhdx_is_to_others_the_same_disk_as_the_mended_raw_one()
    {
        using var scratch = new Scratch();
        var raw = await KeelProgram.Practice(scratch, "mbr-code-wiped", "raw.img");
        var image = scratch["disk.vhdx"];
        await Tool.MustAgree("qemu-img", "convert", "-f", "raw", "-O", "vhdx", raw, image);
        await KeelProgram.Must(0, "mend", raw, "--yes", "--logbook", scratch["logbook"]);
        await KeelProgram.Must(0, "mend", image, "--yes", "--logbook", scratch["logbook"]);
        await Tool.MustAgree("qemu-img", "compare", "-f", "raw", "-F", "vhdx", raw, image);
    }

    [Fact]
    public async Task What_a_file_is_can_be_said()
    {
        using var scratch = new Scratch();
        var raw = await KeelProgram.Practice(scratch, "none", "raw.img");
        string[] fixedDisk = ["-O", "vpc", "-o", "subformat=fixed,force_size"];
        await Tool.MustAgree("qemu-img", ["convert", "-f", "raw", .. fixedDisk, raw, scratch["disk"]]);
        await KeelProgram.Must(0, "diagnose", scratch["disk"], "--kind", "raw");
        var (code, _, error) = await KeelProgram.Run("diagnose", raw, "--kind", "vhdx");
        code.ShouldBe(3);
        error.ShouldContain("The VHDX file is damaged");
        error.ShouldContain("--kind raw");
        (await KeelProgram.Run("diagnose", raw, "--kind", "tape")).ExitCode.ShouldBe(2);
    }

    [Theory]
    [InlineData("vhdx")]
    [InlineData("vpc")]
    [InlineData("qcow2")]
    public async Task A_file_cut_short_is_told_and_never_written(string format)
    {
        using var scratch = new Scratch();
        var raw = await KeelProgram.Practice(scratch, "store-missing", "raw.img");
        await Tool.MustAgree("qemu-img", "convert", "-f", "raw", "-O", format, raw, scratch["whole"]);
        var bytes = await File.ReadAllBytesAsync(scratch["whole"]);
        foreach (var length in new[] { 100, 4096, 200_000, bytes.Length / 3 })
        {
            await File.WriteAllBytesAsync(scratch["half"], bytes[..length]);
            var before = await Images.Hash(scratch["half"]);
            var (code, output, error) = await KeelProgram.Run("mend", scratch["half"], "--yes", "--logbook", scratch["logbook"]);
            code.ShouldBeOneOf(1, 3, 4);
            (output + error).ShouldNotContain("not made for");
            (await Images.Hash(scratch["half"])).ShouldBe(before);
        }
    }

    private static async Task<string> AsRaw(string format, string image, string raw)
    {
        await Tool.MustAgree("qemu-img", "convert", "-f", format, "-O", "raw", image, raw);
        return raw;
    }
}
