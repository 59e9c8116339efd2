using System.Collections;
using System.Text.Json.Nodes;
using Keel.Cli.Wording;
using Keel.Core.Facts;

namespace Keel.Cli.Views.Json;

/// <summary>Facts as they stand in documents: by name, numbers as numbers, lists as lists.</summary>
internal static class FactsJson
{
    public static JsonObject Of(FactSet facts)
    {
        var result = new JsonObject();
        foreach (var fact in facts) result[fact.Name] = Node(fact.Value);
        return result;
    }

    private static JsonNode? Node(object value) => value switch
    {
        string text => JsonValue.Create(text),
        bool yes => JsonValue.Create(yes),
        int number => JsonValue.Create(number),
        uint number => JsonValue.Create(number),
        long number => JsonValue.Create(number),
        DateTimeOffset time => JsonValue.Create(time),
        VolumeRef { File: { } file } volume => new JsonObject
        {
            ["disk"] = volume.DiskPath,
            ["number"] = volume.Number,
            ["file"] = file
        },
        VolumeRef volume => new JsonObject { ["disk"] = volume.DiskPath, ["number"] = volume.Number },
        Remark remark => new JsonObject { ["kind"] = remark.Id, ["text"] = Words.Of(remark), ["facts"] = Of(remark.Facts) },
        IEnumerable many => new JsonArray([.. many.Cast<object>().Select(Node)]),
        _ => throw new InvalidOperationException($"A fact has a value of an unknown type, {value.GetType().Name}.")
    };
}
