using System.Text.Json;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>Every fault: diagnosed by its own id, mended, judged by others, started, undone.</summary>
public sealed class FaultMatrixTests
{
    private static readonly string[] NotBlockingTheManager = ["none", "store-missing", "store-truncated", "store-empty", "entry-stale-volume", "preferred-dangling"];

    /// <summary>The faults, as the program itself lists them: a new one is tested by being there.</summary>
    public static async Task<IEnumerable<TheoryDataRow<string>>> Faults()
    {
        var list = await KeelProgram.Json(0, "drill", "list", "--answers");
        return [.. list.GetProperty("drills").EnumerateArray().Select(drill => drill.GetProperty("fault").GetString()!).Where(fault => !fault.StartsWith("gpt-", StringComparison.Ordinal)).Select(fault => new TheoryDataRow<string>(fault))];
    }

    [Theory]
    [InlineData("gpt-primary-damaged")]
    [InlineData("gpt-backup-damaged")]
    [InlineData("gpt-protective-missing")]
    public async Task A_damaged_gpt_is_found_mended_verified_and_undone(string fault)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, fault);
        var before = await Images.Hash(disk);
        Findings(await KeelProgram.Json(1, "diagnose", disk), "error", "warning").ShouldBe([fault]);
        await KeelProgram.Run("mend", disk, "--yes", "--logbook", scratch["logbook"]);
        (await Tool.MustAgree("sgdisk", "--verify", disk)).ShouldContain("No problems found");
        (await Tool.MustAgree("sfdisk", "--verify", disk)).ShouldContain("No errors");
        Findings(await KeelProgram.Json(1, "diagnose", disk), "error", "warning").ShouldBeEmpty();
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

    [Theory, MemberData(nameof(Faults))]
    public async Task A_fault_is_found_mended_started_and_undone(string fault)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, fault);
        var before = await Images.Hash(disk);
        var logbook = scratch["logbook"];
        var isUsual = fault == "none";

        var found = await KeelProgram.Json(isUsual ? 0 : 1, "diagnose", disk);
        Findings(found, "error", "warning").ShouldBe(isUsual ? [] : Expected(fault), ignoreOrder: true);
        if (fault == "foreign-mbr-code")
            found.GetProperty("verdict").GetString().ShouldBe("doubtful");
        else if (!isUsual)
            found.GetProperty("stopsAt").GetString().ShouldBe(Link(found, fault));
        (await Emulator.Reaches(disk, seconds: NotBlockingTheManager.Contains(fault) ? 6 : 2)).ShouldBe(NotBlockingTheManager.Contains(fault));

        var mended = await KeelProgram.Json(0, "mend", disk, "--yes", "--replace-foreign", "--logbook", logbook);
        if (!isUsual) mended.GetProperty("after").GetProperty("verdict").GetString().ShouldBe("sound");
        (await Emulator.Reaches(disk)).ShouldBeTrue();
        await Images.OthersAgree(disk, scratch);
        (await Images.StoreXml(disk, scratch)).ShouldContain("9dea862c-5cdd-4e70-acc1-f32b344d4795");

        var again = await KeelProgram.Json(0, "mend", disk, "--yes", "--logbook", logbook);
        again.GetProperty("plan").GetArrayLength().ShouldBe(0);
        if (!isUsual) await KeelProgram.Must(0, "undo", disk, "--yes", "--logbook", logbook);
        (await Images.Hash(disk)).ShouldBe(before);
    }

    /// <summary>A cloned disk also moves the manager's own volume, which may stop a start.</summary>
    private static string[] Expected(string fault) => fault == "entry-stale-volume" ? [fault, "manager-stale-volume"] : [fault];

    private static string[] Findings(JsonElement diagnosis, params string[] severities) =>
        [.. diagnosis.GetProperty("findings").EnumerateArray().Where(finding => severities.Contains(finding.GetProperty("severity").GetString())).Select(finding => finding.GetProperty("id").GetString()!)];

    private static string Link(JsonElement diagnosis, string fault) =>
        diagnosis.GetProperty("findings").EnumerateArray().First(finding => finding.GetProperty("id").GetString() == fault).GetProperty("link").GetString()!;
}
