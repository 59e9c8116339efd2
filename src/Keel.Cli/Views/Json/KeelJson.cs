using System.Text.Json;
using System.Text.Json.Serialization;
using System.Text.Json.Serialization.Metadata;

namespace Keel.Cli.Views.Json;

/// <summary>Writes the documents of --format json, without reflection.</summary>
[JsonSourceGenerationOptions(PropertyNamingPolicy = JsonKnownNamingPolicy.CamelCase, WriteIndented = true)]
[JsonSerializable(typeof(ExplainDocument))]
[JsonSerializable(typeof(SurveyDocument))]
[JsonSerializable(typeof(BootIniDocument))]
[JsonSerializable(typeof(ProgramsDocument))]
[JsonSerializable(typeof(FoldersDocument))]
[JsonSerializable(typeof(TakenDocument))]
[JsonSerializable(typeof(SnapshotsDocument))]
[JsonSerializable(typeof(FileCheckDocument))]
[JsonSerializable(typeof(ReportDocument))]
[JsonSerializable(typeof(RoundDocument))]
[JsonSerializable(typeof(TallyDocument))]
[JsonSerializable(typeof(BootIniCheckDocument))]
[JsonSerializable(typeof(DiagnoseDocument))]
[JsonSerializable(typeof(MendDocument))]
[JsonSerializable(typeof(LogbookDocument))]
[JsonSerializable(typeof(RecordSummary))]
[JsonSerializable(typeof(LayoutDocument))]
[JsonSerializable(typeof(MbrDocument))]
[JsonSerializable(typeof(SectorDocument))]
[JsonSerializable(typeof(StoreListDocument))]
[JsonSerializable(typeof(StoreEntryDocument))]
[JsonSerializable(typeof(StoreSavedDocument))]
[JsonSerializable(typeof(StoreCheckDocument))]
[JsonSerializable(typeof(DrillListDocument))]
[JsonSerializable(typeof(DrillDocument))]
[JsonSerializable(typeof(FilesDocument))]
[JsonSerializable(typeof(ServicesDocument))]
[JsonSerializable(typeof(UpdatesDocument))]
[JsonSerializable(typeof(HistoryDocument))]
[JsonSerializable(typeof(DrillCheckDocument))]
[JsonSerializable(typeof(MarksDocument))]
[JsonSerializable(typeof(FirmwareDocument))]
[JsonSerializable(typeof(DiskHealthDocument))]
[JsonSerializable(typeof(DiskImagedDocument))]
[JsonSerializable(typeof(StickWrittenDocument))]
[JsonSerializable(typeof(StickCheckedDocument))]
[JsonSerializable(typeof(ErrorDocument))]
internal sealed partial class KeelJson : JsonSerializerContext
{
    /// <summary>The version of all documents: one more where a key changes its meaning, which none has done yet.</summary>
    public const int SchemaVersion = 1;

    /// <summary>Prints one document on standard output.</summary>
    public static void Print<T>(T document, JsonTypeInfo<T> type) => Console.Out.WriteLine(Text(document, type));

    /// <summary>A document as text, with the version of its schema first.</summary>
    public static string Text<T>(T document, JsonTypeInfo<T> type)
    {
        var node = JsonSerializer.SerializeToNode(document, type)!.AsObject();
        node.Insert(0, "schemaVersion", SchemaVersion);
        return node.ToJsonString(type.Options);
    }
}
