using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>keel disk: what can be tried without a disk that fails.</summary>
public sealed class DiskCommandTests
{
    /// <summary>ddrescue makes the image, keel goes on with it; the map stands beside it.</summary>
    [Fact]
    public async Task An_image_is_made_and_gone_on_with()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "store-missing");
        var said = await KeelProgram.Must(0, "disk", "image", disk, scratch["copy.img"]);
        said.ShouldContain("keel diagnose");
        (await Images.Hash(scratch["copy.img"])).ShouldBe(await Images.Hash(disk));
        File.Exists(scratch["copy.img.map"]).ShouldBeTrue();
        (await KeelProgram.Must(1, "diagnose", scratch["copy.img"])).ShouldContain("BROKEN at store");
        await KeelProgram.Must(0, "disk", "image", disk, scratch["copy.img"]);
    }

    [Fact]
    public async Task An_image_goes_over_nothing()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "none");
        File.WriteAllText(scratch["ledger"], "of the night ferry");
        (await KeelProgram.Run("disk", "image", disk, scratch["ledger"])).ExitCode.ShouldBe(4);
        (await KeelProgram.Run("disk", "image", disk, disk)).ExitCode.ShouldBe(4);
        (await KeelProgram.Run("disk", "image", disk, scratch["none/copy.img"])).ExitCode.ShouldBe(2);
        (await KeelProgram.Run("disk", "image", scratch["nothing"], scratch["copy.img"])).ExitCode.ShouldBe(3);
        File.ReadAllText(scratch["ledger"]).ShouldBe("of the night ferry");
    }

    [Theory]
    [InlineData("disk.img")]
    [InlineData("nothing")]
    public async Task An_image_says_nothing_of_its_disks_health(string name)
    {
        using var scratch = new Scratch();
        await KeelProgram.Practice(scratch, "none");
        var (exitCode, _, error) = await KeelProgram.Run("disk", "health", scratch[name]);
        exitCode.ShouldBeOneOf(2, 3);
        error.ShouldStartWith("keel: ");
    }
}
