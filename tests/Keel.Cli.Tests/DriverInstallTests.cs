using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>The driver of a disk controller comes in from a folder; another program reads the hive behind it.</summary>
public sealed class DriverInstallTests
{
    private const string Package = @"\Windows\System32\DriverStore\FileRepository\quayraid.inf_amd64_b4ac0219";

    [Fact]
    public async Task A_driver_from_a_folder_is_in_the_hive_as_another_program_reads_it_and_goes_again()
    {
        using var scratch = new Scratch();
        var folder = await DriverFolder(scratch);
        var disk = await KeelProgram.Practice(scratch, "none");
        var before = await Images.Hash(disk);
        var hiveBefore = await Exported(scratch, disk, "before");
        var plan = (await KeelProgram.Must(0, "services", "install", disk, folder, "--preview")).ReplaceLineEndings(" ");
        plan.ShouldContain("not proven");
        plan.ShouldContain("that Windows starts is not proven");
        (await KeelProgram.Must(1, "services", "install", disk, folder, "--yes", "--logbook", scratch["logbook"]))
            .ShouldContain("NOT PROVEN");
        var hive = await Exported(scratch, disk, "after");
        var added = hive.Except(hiveBefore).ToList();
        added.ShouldContain(line => line.Contains(@"quayraid", StringComparison.Ordinal));
        hiveBefore.Except(hive).ShouldBeEmpty("nothing that stood in the hive is lost");
        added.ShouldContain(line => line.Contains(@"System32\drivers\quayraid.sys", StringComparison.Ordinal));
        (await KeelProgram.Must(0, "services", "list", disk, "quayraid")).ShouldContain("boot");
        await KeelProgram.Must(0, "undo", disk, "--yes", "--logbook", scratch["logbook"]);
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Fact]
    public async Task An_altered_driver_and_a_folder_without_one_are_refused()
    {
        using var scratch = new Scratch();
        var folder = await DriverFolder(scratch);
        var disk = await KeelProgram.Practice(scratch, "none");
        var file = Path.Combine(folder, "quayraid.sys");
        var bytes = await File.ReadAllBytesAsync(file);
        bytes[3_000] ^= 1;
        bytes.AsSpan(0xD8, 4).Clear();                          // no checksum is no proof of damage
        await File.WriteAllBytesAsync(file, bytes);
        var before = await Images.Hash(disk);
        (await KeelProgram.Run("services", "install", disk, folder, "--yes")).Error.ShouldContain("0xC0000428");
        File.Delete(file);
        (await KeelProgram.Run("services", "install", disk, folder, "--yes")).Error.ShouldContain("not there beside its INF");
        Directory.CreateDirectory(scratch["empty"]);
        (await KeelProgram.Run("services", "install", disk, scratch["empty"], "--yes")).Error.ShouldContain("No INF there");
        (await Images.Hash(disk)).ShouldBe(before);
    }

    private static async Task<string> DriverFolder(Scratch scratch)
    {
        Directory.CreateDirectory(scratch["staged"]);
        var disk = scratch["staged/disk.img"];
        await KeelProgram.Must(0, "drill", "new", "controller-driver-absent", "--out", disk, "--firmware", "bios");
        await KeelProgram.Must(0, "files", "take", disk, Package, scratch["driver"]);
        return scratch["driver"];
    }

    private static async Task<IReadOnlyList<string>> Exported(Scratch scratch, string disk, string name)
    {
        await KeelProgram.Must(0, "files", "take", disk, @"\Windows\System32\config\SYSTEM", scratch[name]);
        var pieces = (await Tool.MustAgree("hivexml", scratch[name])).Split('<');
        return [.. pieces.Where(piece => !piece.StartsWith("byte_run", StringComparison.Ordinal))];
    }
}
