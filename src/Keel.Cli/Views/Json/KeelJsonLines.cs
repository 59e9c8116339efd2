using System.Text.Json.Serialization;

namespace Keel.Cli.Views.Json;

/// <summary>Writes and reads documents that take one line each.</summary>
[JsonSourceGenerationOptions(
    PropertyNamingPolicy = JsonKnownNamingPolicy.CamelCase,
    DefaultIgnoreCondition = JsonIgnoreCondition.WhenWritingNull)]
[JsonSerializable(typeof(RoundLineDocument))]
[JsonSerializable(typeof(string))]
internal sealed partial class KeelJsonLines : JsonSerializerContext;
