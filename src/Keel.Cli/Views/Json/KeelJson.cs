using System.Text.Json;
using System.Text.Json.Serialization;

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
[JsonSerializable(typeof(StoreCheckDocument))]
[JsonSerializable(typeof(DrillListDocument))]
[JsonSerializable(typeof(DrillDocument))]
[JsonSerializable(typeof(FilesDocument))]
[JsonSerializable(typeof(ServicesDocument))]
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
    /// <summary>Prints one document on standard output.</summary>
    public static void Print<T>(T document, System.Text.Json.Serialization.Metadata.JsonTypeInfo<T> type) =>
        Console.Out.WriteLine(JsonSerializer.Serialize(document, type));
}
