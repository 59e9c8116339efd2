using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>Faults of a GPT, and what is refused on a UEFI layout.</summary>
public sealed class GptFaultTests
{
    [Theory]
    [InlineData("gpt-primary-damaged")]
    [InlineData("gpt-backup-damaged")]
    [InlineData("gpt-protective-missing")]
    public async Task A_damaged_gpt_is_found_mended_verified_and_undone(string fault)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, fault);
        var before = await Images.Hash(disk);
        FaultMatrix.Findings(await KeelProgram.Json(1, "diagnose", disk), "error", "warning").ShouldBe([fault]);
        await KeelProgram.Run("mend", disk, "--yes", "--logbook", scratch["logbook"]);
        (await Tool.MustAgree("sgdisk", "--verify", disk)).ShouldContain("No problems found");
        (await Tool.MustAgree("sfdisk", "--verify", disk)).ShouldContain("No errors");
        FaultMatrix.Findings(await KeelProgram.Json(1, "diagnose", disk), "error", "warning").ShouldBeEmpty();
        await KeelProgram.Must(0, "undo", disk, "--yes", "--logbook", scratch["logbook"]);
        (await Images.Hash(disk)).ShouldBe(before);
    }

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
}
