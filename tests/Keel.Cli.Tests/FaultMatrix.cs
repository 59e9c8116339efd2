using System.Text.Json;
using Keel.Core.Chain;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>
/// Every fault, for every firmware that it applies to: diagnosed by its own id, mended, judged by others, started, undone.
/// </summary>
internal static class FaultMatrix
{
    /// <summary>The faults, as the program itself lists them: a new one is tested by being there.</summary>
    public static async Task<IEnumerable<TheoryDataRow<string, string>>> Faults(params string[] beginnings)
    {
        var list = await KeelProgram.Json(0, "drill", "list", "--answers");
        return
        [
            .. from drill in list.GetProperty("drills").EnumerateArray()
               let fault = drill.GetProperty("fault").GetString()!
               where beginnings.Any(beginning => fault.StartsWith(beginning, StringComparison.Ordinal))
               from firmware in drill.GetProperty("firmware").EnumerateArray()
               select new TheoryDataRow<string, string>(fault, firmware.GetString()!)
        ];
    }

    /// <summary>Takes one fault all the way.</summary>
    public static async Task Holds(string fault, string firmware)
    {
        using var scratch = new Scratch();
        var disk = new PracticeCase(scratch, fault, firmware);
        await disk.Make();
        var before = await disk.Hash();
        var isUsual = fault == "none";

        var found = await disk.Json(isUsual ? 0 : 1, "diagnose");
        Findings(found, "error", "warning").ShouldBe(isUsual ? [] : Expected(fault), ignoreOrder: true);
        var kind = isUsual ? null : FindingKinds.Of(Core.Drills.Faults.Find(fault).FindingId);
        // A SOFTWARE hive comes back from a copy or a snapshot only, and this machine has none.
        var isOnlyRefused = fault == "software-hive-missing"
            || (kind is { Beyond: not null } && !Core.Mending.Plan.IsMendable(kind));
        var isOnlyDoubtful = kind is { Severity: Severity.Warning, Beyond: null };
        if (isOnlyDoubtful || isOnlyRefused)
            found.GetProperty("verdict").GetString().ShouldBe(kind!.Severity == Severity.Error ? "broken" : "doubtful");
        else if (!isUsual)
            found.GetProperty("stopsAt").GetString().ShouldBe(Link(found, kind!.Id));
        var startsBefore = await disk.StartsBefore(
            kind is null
                || (isOnlyDoubtful && kind.Id != "foreign-mbr-code")
                || isOnlyRefused
                || Core.Drills.Faults.Find(fault).FirmwareStartsIt
                || (kind.Link >= Core.Chain.Link.Store && !fault.StartsWith("ntldr-", StringComparison.Ordinal)));
        if (isOnlyRefused)
        {
            var refused = await disk.Json(1, "mend", "--yes");
            refused.GetProperty("record").ValueKind.ShouldBe(JsonValueKind.Null);
            refused.GetProperty("left").GetArrayLength().ShouldBeGreaterThan(0);
            (await disk.Hash()).ShouldBe(before);
            MatrixRow.Write(
                fault,
                firmware,
                found,
                "rightly refused",
                "nothing written",
                startsBefore,
                "as before",
                "nothing to undo");
            return;
        }

        var mended = await disk.Json(0, "mend", "--yes", "--replace-foreign", "--new-file-system");
        if (!isUsual) mended.GetProperty("after").GetProperty("verdict").GetString().ShouldBe("sound");
        var startsAfter = await disk.StartsAfter();
        await disk.OthersAgree();

        var again = await disk.Json(0, "mend", "--yes");
        again.GetProperty("plan").GetArrayLength().ShouldBe(0);
        if (!isUsual) await disk.Undo();
        (await disk.Hash()).ShouldBe(before);
        MatrixRow.Write(
            fault,
            firmware,
            found,
            isUsual ? "nothing to mend" : "mended, sound",
            "clean",
            startsBefore,
            startsAfter,
            isUsual ? "nothing to undo" : "to the byte");
    }

    public static string[] Findings(JsonElement diagnosis, params string[] severities) =>
        [.. diagnosis
            .GetProperty("findings")
            .EnumerateArray()
            .Where(finding => severities.Contains(finding.GetProperty("severity").GetString()))
            .Select(finding => finding.GetProperty("id").GetString()!)];

    /// <summary>
    /// A cloned disk also moves the manager's own volume, which may stop a start; formatting takes the store too, which shows
    /// once there are files again.
    /// </summary>
    private static string[] Expected(string fault) => fault switch
    {
        "entry-stale-volume" => [fault, "manager-stale-volume"],
        "table-missing" => [fault, "mbr-code-wiped"],
        "esp-formatted" => [fault, "store-missing"],
        "esp-no-file-system" => [fault, "esp-formatted", "store-missing"],
        "encryption-metadata-damaged" => [fault, "volume-encrypted"],
        "esp-missing" => [fault, "firmware-entries-stale", "firmware-entry-missing", "esp-formatted", "store-missing"],
        _ => [Core.Drills.Faults.Find(fault).FindingId]
    };

    private static string Link(JsonElement diagnosis, string fault) =>
        diagnosis
            .GetProperty("findings")
            .EnumerateArray()
            .First(finding => finding.GetProperty("id").GetString() == fault)
            .GetProperty("link")
            .GetString()!;
}
