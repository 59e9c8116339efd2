using System.Text.Json;
using System.Text.Json.Nodes;
using Keel.Tests;

namespace Keel.Cli.Tests;

/// <summary>
/// Documents that an earlier keel printed, in Kept/, are still printed: with every key, of the same kind, and with the same
/// value wherever it is no sentence. What is printed now follows the schemas in docs/json.
/// </summary>
public sealed class KeptDocumentTests
{
    /// <summary>Sentences may be worded better; places, and the serial number of a new volume, are those of this run.</summary>
    private static readonly HashSet<string> MayDiffer =
        ["detail", "details", "evidence", "summary", "why", "todo", "path", "folder", "here", "backup"];

    /// <summary>Name of the kept document, the schema, and the command that printed it.</summary>
    public static TheoryData<string, string, string> Commands => new()
    {
        { "diagnose.store-missing", "diagnose", "diagnose DISK" },
        { "diagnose.mbr-code-wiped", "diagnose", "diagnose DISK" },
        { "diagnose.driver-missing", "diagnose", "diagnose DISK" },
        { "diagnose.system-hive-torn", "diagnose", "diagnose DISK" },
        { "diagnose.firmware-entry-missing", "diagnose", "diagnose DISK --variables DISK.variables" },
        { "explain.c0000034", "explain", "explain c0000034" },
        { "survey.none", "survey", "survey DISK" },
        { "mend.store-missing", "mend", "mend DISK --preview" },
        { "mbr-show.none", "mbr-show", "mbr show DISK" },
        { "sector-show.none", "sector-show", "sector show DISK" },
        { "store-list.none", "store-list", "store list DISK" },
        { "store-check.none", "store-check", "store check DISK" },
        { "files-list.none", "files-list", "files list DISK" },
        { "services-list.none", "services-list", "services list DISK" },
        { "firmware-list.firmware-entry-missing", "firmware-list", "firmware list DISK --variables DISK.variables" }
    };

    [Theory]
    [MemberData(nameof(Commands))]
    public async Task A_kept_document_is_still_printed(string name, string schema, string command)
    {
        using var scratch = new Scratch();
        var disk = await DiskFor(scratch, name[(name.IndexOf('.', StringComparison.Ordinal) + 1)..]);
        var words = command.Split(' ').Select(word => word.Replace("DISK", disk, StringComparison.Ordinal));
        var (_, output, error) = await KeelProgram.Run([.. words, "--format", "json"]);
        error.ShouldBeEmpty();
        var now = JsonNode.Parse(output);
        var kept = JsonNode.Parse(await File.ReadAllTextAsync(
            Path.Combine(KeelProgram.Root(), "tests", "Keel.Cli.Tests", "Kept", $"{name}.json"),
            TestContext.Current.CancellationToken));
        Lost(kept, now, "", "").ShouldBeEmpty();

        var rules = JsonNode.Parse(await File.ReadAllTextAsync(
            Path.Combine(KeelProgram.Root(), "docs", "json", $"{schema}.schema.json"),
            TestContext.Current.CancellationToken))!;
        Broken(rules, now, "").ShouldBeEmpty();
    }

    [Fact]
    public void A_key_that_is_lost_or_a_value_that_is_another_one_is_noticed()
    {
        var kept = JsonNode.Parse("""{"verdict":"broken","links":[{"link":"store","status":"sound"}],"size":5}""");
        var more = JsonNode.Parse("""{"verdict":"broken","links":[{"link":"store","status":"sound"}],"size":5,"more":1}""");
        Lost(kept, more, "", "").ShouldBeEmpty();
        Lost(kept, JsonNode.Parse("""{"verdict":"sound","links":[{"link":"store"}],"size":"5"}"""), "", "")
            .Count().ShouldBe(3);
        var rules = JsonNode.Parse("""{"type":"object","properties":{"a":{"type":["integer","null"]}},"required":["a"]}""")!;
        Broken(rules, JsonNode.Parse("""{"a":1}"""), "").ShouldBeEmpty();
        Broken(rules, JsonNode.Parse("""{"a":null}"""), "").ShouldBeEmpty();
        Broken(rules, JsonNode.Parse("""{"a":"1"}"""), "").ShouldHaveSingleItem();
        Broken(rules, JsonNode.Parse("{}"), "").ShouldHaveSingleItem();
    }

    private static async Task<string> DiskFor(Scratch scratch, string fault)
    {
        if (fault.StartsWith('c')) return "";
        var firmware = fault.StartsWith("firmware", StringComparison.Ordinal) ? "uefi" : "bios";
        await KeelProgram.Practice(scratch["disk.img"], fault, firmware);
        return scratch["disk.img"];
    }

    /// <summary>What the kept document has and the present one has not.</summary>
    private static IEnumerable<string> Lost(JsonNode? kept, JsonNode? now, string place, string key) => (kept, now) switch
    {
        (JsonObject was, JsonObject becomes) => was.SelectMany(pair => becomes.ContainsKey(pair.Key)
            ? Lost(pair.Value, becomes[pair.Key], $"{place}/{pair.Key}", pair.Key)
            : [$"{place}/{pair.Key} is lost"]),
        (JsonArray was, JsonArray becomes) when MayDiffer.Contains(key)
            => becomes.Count > 0 || was.Count == 0 ? [] : [$"{place} is empty"],
        (JsonArray was, JsonArray becomes)
            when becomes.Count > was.Count && LinksIn(was) is { } old && LinksIn(becomes) is { } links
            => old.SelectMany(link => links.TryGetValue(link.Key, out var still)
                ? Lost(link.Value, still, $"{place}[{link.Key}]", key)
                : [$"{place}[{link.Key}] is lost"]),
        (JsonArray was, JsonArray becomes) when was.Count == becomes.Count => was.Zip(becomes)
            .SelectMany((pair, index) => Lost(pair.First, pair.Second, $"{place}[{index}]", key)),
        _ => KindOf(kept) == KindOf(now) && (MayDiffer.Contains(key) || JsonNode.DeepEquals(kept, now))
            ? []
            : [$"{place} was {kept?.ToJsonString()} and is {now?.ToJsonString()}"]
    };

    /// <summary>The links of a chain by their ids, among which a new one may stand; null for other lists.</summary>
    private static Dictionary<string, JsonObject>? LinksIn(JsonArray list)
    {
        var links = list.OfType<JsonObject>().Where(item => item.ContainsKey("link")).ToList();
        return links.Count == list.Count && links.DistinctBy(item => $"{item["link"]}").Count() == links.Count
            ? links.ToDictionary(item => $"{item["link"]}")
            : null;
    }

    /// <summary>Where a document does not follow its schema: types, keys that must be there, items.</summary>
    private static IEnumerable<string> Broken(JsonNode rules, JsonNode? document, string place)
    {
        if (rules is not JsonObject schema) return [];
        var types = schema["type"] switch
        {
            JsonArray many => many.Select(one => $"{one}").ToList(),
            JsonValue one => [$"{one}"],
            _ => [KindOf(document)]
        };
        if (!types.Contains(KindOf(document))) return [$"{place} is {KindOf(document)}, not {string.Join(" or ", types)}"];
        var required = schema["required"] is JsonArray keys ? keys.Select(key => $"{key}") : [];
        return document switch
        {
            JsonObject one => required.Where(key => !one.ContainsKey(key)).Select(key => $"{place}/{key} is missing")
                .Concat(one.SelectMany(pair => schema["properties"]?[pair.Key] is { } inner
                    ? Broken(inner, pair.Value, $"{place}/{pair.Key}")
                    : [])),
            JsonArray many when schema["items"] is { } inner
                => many.SelectMany((item, index) => Broken(inner, item, $"{place}[{index}]")),
            _ => []
        };
    }

    private static string KindOf(JsonNode? node) => node?.GetValueKind() switch
    {
        null or JsonValueKind.Null => "null",
        JsonValueKind.True or JsonValueKind.False => "boolean",
        JsonValueKind.Number => "integer",
        JsonValueKind.Array => "array",
        JsonValueKind.Object => "object",
        _ => "string"
    };
}
