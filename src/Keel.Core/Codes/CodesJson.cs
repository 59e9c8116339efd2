using System.Text.Json.Serialization;

namespace Keel.Core.Codes;

/// <summary>How the table of startup errors is read, without reflection.</summary>
[JsonSourceGenerationOptions(PropertyNamingPolicy = JsonKnownNamingPolicy.CamelCase)]
[JsonSerializable(typeof(List<StartupError>))]
internal sealed partial class CodesJson : JsonSerializerContext;
