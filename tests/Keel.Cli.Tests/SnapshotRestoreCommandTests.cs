using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>The command that goes back to a restore point: what it says, what it writes, and that it is undone.</summary>
public sealed class SnapshotRestoreCommandTests
{
    private const string Driver = @"\Windows\System32\drivers\disk.sys";

    [Fact]
    public async Task A_driver_comes_back_as_the_snapshot_has_it_and_goes_again()
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, "driver-snapshot");
        var before = await Images.Hash(disk);
        await KeelProgram.Must(0, "snapshots", "take", disk, "1", Driver, scratch["then.sys"]);
        (await KeelProgram.Must(1, "snapshots", "restore", disk, "1", "--preview")).ShouldContain("in snapshot 1");
        (await Images.Hash(disk)).ShouldBe(before);
        await KeelProgram.Must(0, "snapshots", "restore", disk, "1", "--yes", "--logbook", scratch["logbook"]);
        await KeelProgram.Must(0, "files", "take", disk, Driver, scratch["now.sys"]);
        await Tool.MustAgree("cmp", scratch["then.sys"], scratch["now.sys"]);
        await KeelProgram.Must(0, "diagnose", disk);
        await KeelProgram.Must(0, "undo", disk, "--yes", "--logbook", scratch["logbook"]);
        (await Images.Hash(disk)).ShouldBe(before);
    }

    [Fact]
    public async Task What_can_not_be_gone_back_to_says_why()
    {
        using var scratch = new Scratch();
        var plain = await KeelProgram.Practice(scratch, "none", "plain.img");
        (await KeelProgram.Run("snapshots", "restore", plain, "1", "--yes")).Error.ShouldContain("has no restore points");
        var disk = await KeelProgram.Practice(scratch, "system-hive-snapshot");
        (await KeelProgram.Run("snapshots", "restore", disk, "9", "--yes")).Error.ShouldContain("There is no snapshot 9");
        (await KeelProgram.Must(1, "snapshots", "restore", disk, "1", "--preview")).ShouldContain("LOST: what was changed after");
    }
}
