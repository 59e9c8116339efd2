using System.Text.Json;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>Every fault: diagnosed by its own id, mended, judged by others, started, undone.</summary>
internal static class FaultMatrix
{
    private static readonly string[] LinksBeforeTheManager = ["disk-layout", "mbr-code", "active-mark", "boot-sector"];
    private static readonly string[] OnlyDoubtful = ["foreign-mbr-code", "entry-duplicate", "order-dangling", "wait-zero-no-menu"];

    /// <summary>The faults, as the program itself lists them: a new one is tested by being there.</summary>
    public static async Task<IEnumerable<TheoryDataRow<string>>> Faults(params string[] beginnings)
    {
        var list = await KeelProgram.Json(0, "drill", "list", "--answers");
        return [.. list.GetProperty("drills").EnumerateArray().Select(drill => drill.GetProperty("fault").GetString()!).Where(fault => beginnings.Any(beginning => fault.StartsWith(beginning, StringComparison.Ordinal))).Select(fault => new TheoryDataRow<string>(fault))];
    }

    /// <summary>Takes one fault all the way.</summary>
    public static async Task Holds(string fault)
    {
        using var scratch = new Scratch();
        var disk = await KeelProgram.Practice(scratch, fault);
        var before = await Images.Hash(disk);
        var logbook = scratch["logbook"];
        var isUsual = fault == "none";

        var found = await KeelProgram.Json(isUsual ? 0 : 1, "diagnose", disk);
        Findings(found, "error", "warning").ShouldBe(isUsual ? [] : Expected(fault), ignoreOrder: true);
        if (OnlyDoubtful.Contains(fault))
            found.GetProperty("verdict").GetString().ShouldBe("doubtful");
        else if (!isUsual)
            found.GetProperty("stopsAt").GetString().ShouldBe(Link(found, fault));
        var stopsBefore = !isUsual && LinksBeforeTheManager.Contains(Link(found, fault));
        (await Emulator.Reaches(disk, seconds: stopsBefore ? 2 : 6)).ShouldBe(!stopsBefore);

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

    public static string[] Findings(JsonElement diagnosis, params string[] severities) =>
        [.. diagnosis.GetProperty("findings").EnumerateArray().Where(finding => severities.Contains(finding.GetProperty("severity").GetString())).Select(finding => finding.GetProperty("id").GetString()!)];

    private static string Link(JsonElement diagnosis, string fault) =>
        diagnosis.GetProperty("findings").EnumerateArray().First(finding => finding.GetProperty("id").GetString() == fault).GetProperty("link").GetString()!;
}
