using System.Text.Json;
using System.Text.Json.Nodes;
using System.Text.Json.Schema;
using System.Text.RegularExpressions;
using Keel.Cli.Views.Json;

namespace Keel.Cli.Tests;

/// <summary>
/// The documents of --format json have the schemas in docs/json, and docs/json.md names every key of them.
/// </summary>
/// <remarks>With KEEL_RENEW_SCHEMAS set, the schemas are written anew; a key that was there is never given up.</remarks>
public sealed partial class JsonSchemaTests
{
    private static readonly string Docs = Path.Combine(KeelProgram.Root(), "docs");

    public static TheoryData<string> Names => [.. Documents.Keys];

    private static Dictionary<string, Type> Documents => new()
    {
        ["explain"] = typeof(ExplainDocument),
        ["survey"] = typeof(SurveyDocument),
        ["diagnose"] = typeof(DiagnoseDocument),
        ["history"] = typeof(HistoryDocument),
        ["mend"] = typeof(MendDocument),
        ["logbook"] = typeof(LogbookDocument),
        ["undo"] = typeof(RecordSummary),
        ["layout-show"] = typeof(LayoutDocument),
        ["files-look"] = typeof(FoldersDocument),
        ["files-take"] = typeof(TakenDocument),
        ["snapshots-list"] = typeof(SnapshotsDocument),
        ["report"] = typeof(ReportDocument),
        ["round"] = typeof(RoundDocument),
        ["round-tally"] = typeof(TallyDocument),
        ["programs-list"] = typeof(ProgramsDocument),
        ["bootini-list"] = typeof(BootIniDocument),
        ["bootini-check"] = typeof(BootIniCheckDocument),
        ["mbr-show"] = typeof(MbrDocument),
        ["sector-show"] = typeof(SectorDocument),
        ["store-list"] = typeof(StoreListDocument),
        ["store-show"] = typeof(StoreEntryDocument),
        ["store-save"] = typeof(StoreSavedDocument),
        ["store-check"] = typeof(StoreCheckDocument),
        ["drill-list"] = typeof(DrillListDocument),
        ["drill-new"] = typeof(DrillDocument),
        ["drill-check"] = typeof(DrillCheckDocument),
        ["files-check"] = typeof(FileCheckDocument),
        ["files-list"] = typeof(FilesDocument),
        ["files-mark"] = typeof(MarksDocument),
        ["updates-list"] = typeof(UpdatesDocument),
        ["services-list"] = typeof(ServicesDocument),
        ["firmware-list"] = typeof(FirmwareDocument),
        ["disk-health"] = typeof(DiskHealthDocument),
        ["disk-image"] = typeof(DiskImagedDocument),
        ["stick-write"] = typeof(StickWrittenDocument),
        ["stick-check"] = typeof(StickCheckedDocument),
        ["error"] = typeof(ErrorDocument)
    };

    [Theory]
    [MemberData(nameof(Names))]
    public void A_document_has_the_schema_that_is_kept(string name)
    {
        var schema = SchemaOf(name);
        var path = Path.Combine(Docs, "json", $"{name}.schema.json");
        if (Environment.GetEnvironmentVariable("KEEL_RENEW_SCHEMAS") is { Length: > 0 })
            File.WriteAllText(path, schema.ToJsonString(new JsonSerializerOptions { WriteIndented = true }) + "\n");
        JsonNode.DeepEquals(JsonNode.Parse(File.ReadAllText(path)), schema)
            .ShouldBeTrue($"the schema of {name} is another one; KEEL_RENEW_SCHEMAS=1 writes it anew");
    }

    [Theory]
    [MemberData(nameof(Names))]
    public void Every_key_of_a_document_is_told_in_the_docs(string name)
    {
        var told = Words().Matches(File.ReadAllText(Path.Combine(Docs, "json.md"))).Select(match => match.Value).ToHashSet();
        KeysOf(SchemaOf(name)).Where(key => !told.Contains(key)).Distinct().ShouldBeEmpty();
    }

    [Fact]
    public void Every_document_that_the_program_prints_has_its_schema()
    {
        var printed = typeof(KeelJson)
            .GetCustomAttributesData()
            .Where(attribute => attribute.AttributeType.Name == "JsonSerializableAttribute")
            .Select(attribute => (Type)attribute.ConstructorArguments[0].Value!);
        printed.ShouldBe(Documents.Values, ignoreOrder: true);
        Directory.GetFiles(Path.Combine(Docs, "json")).Length.ShouldBe(Documents.Count);
    }

    private static JsonObject SchemaOf(string name)
    {
        var schema = KeelJson.Default.Options.GetJsonSchemaAsNode(
            Documents[name],
            new JsonSchemaExporterOptions { TreatNullObliviousAsNonNullable = true, TransformSchemaNode = WithWords }).AsObject();
        schema["properties"]!.AsObject().Insert(
            0,
            "schemaVersion",
            new JsonObject { ["const"] = KeelJson.SchemaVersion });
        schema.Insert(0, "$schema", "https://json-schema.org/draft/2020-12/schema");
        schema.Insert(1, "$id", $"urn:uneven-keel:{name}:{KeelJson.SchemaVersion}");
        return schema;
    }

    /// <summary>A closed set of words is listed.</summary>
    private static JsonNode WithWords(JsonSchemaExporterContext context, JsonNode schema)
    {
        var words = context.PropertyInfo?.AttributeProvider?.GetCustomAttributes(typeof(OneOfAttribute), inherit: false);
        if (words is not [OneOfAttribute one] || schema is not JsonObject node) return schema;
        var known = Enum.GetNames(one.Set).Select(word => (JsonNode?)word.ToLowerInvariant());
        node["enum"] = new JsonArray([.. node["type"] is JsonArray ? known.Append(null) : known]);
        return node;
    }

    [Fact]
    public async Task Every_document_says_first_which_version_its_schema_has()
    {
        (await KeelProgram.Must(0, "explain", "c000000f", "--format", "json")).ShouldStartWith("{\n  \"schemaVersion\": 1,");
        SchemaOf("diagnose")["properties"]!["verdict"]!["enum"]!.AsArray().Count.ShouldBe(3);
    }

    private static IEnumerable<string> KeysOf(JsonNode? node) => node switch
    {
        JsonObject one => one.SelectMany(pair => pair.Key == "properties"
            ? ((JsonObject)pair.Value!).SelectMany(key => KeysOf(key.Value).Prepend(key.Key))
            : KeysOf(pair.Value)),
        JsonArray many => many.SelectMany(KeysOf),
        _ => []
    };

    [GeneratedRegex("[A-Za-z0-9]+")]
    private static partial Regex Words();
}
