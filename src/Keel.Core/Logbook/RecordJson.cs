using System.Text.Json.Serialization;

namespace Keel.Core.Logbook;

/// <summary>How record.json is read and written, without reflection.</summary>
[JsonSourceGenerationOptions(PropertyNamingPolicy = JsonKnownNamingPolicy.CamelCase, WriteIndented = true)]
[JsonSerializable(typeof(RecordDocument))]
internal sealed partial class RecordJson : JsonSerializerContext;
