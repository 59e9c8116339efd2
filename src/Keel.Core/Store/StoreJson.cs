using System.Text.Json;
using System.Text.Json.Nodes;
using Keel.Core.Errors;
using Keel.Core.Hives;

namespace Keel.Core.Store;

/// <summary>
/// A store in a readable form that loads back to the same store: keys with their values, bytes in hexadecimal, texts beside them.
/// </summary>
public static class StoreJson
{
    private const int DepthLimit = 200;

    /// <summary>Whether bytes begin as a JSON document does, and a hive does not.</summary>
    public static bool LooksLike(ReadOnlySpan<byte> bytes)
    {
        var first = bytes.IndexOfAnyExcept(" \t\r\n"u8);
        return first >= 0 && bytes[first] == '{';
    }

    /// <summary>The store as a JSON document.</summary>
    public static byte[] Write(BootStore store)
    {
        using var stream = new MemoryStream();
        using (var writer = new Utf8JsonWriter(stream, new JsonWriterOptions { Indented = true }))
        {
            writer.WriteStartObject();
            writer.WriteString("form", "keel store 1");
            writer.WriteNumber("minor", store.Minor);
            writer.WritePropertyName("root");
            Write(writer, store.Root);
            writer.WriteEndObject();
        }

        return stream.ToArray();
    }

    /// <exception cref="UnreadableException">It isn't such a document.</exception>
    public static BootStore Read(byte[] document)
    {
        try
        {
            var json = JsonNode.Parse(document, documentOptions: new JsonDocumentOptions { MaxDepth = DepthLimit * 2 })!;
            if (json["form"]?.GetValue<string>() != "keel store 1") throw new FormatException("it does not say \"keel store 1\"");
            return BootStore.Of(ReadNode(json["root"]!, 0), json["minor"]!.GetValue<uint>());
        }
        catch (Exception e) when (e is JsonException
            or FormatException
            or InvalidOperationException
            or NullReferenceException
            or OverflowException)
        {
            throw new UnreadableException(
                "The document is not a saved store.",
                $"The reason: {e.Message}",
                "Name a file that 'keel store save --as json' made.",
                e);
        }
    }

    private static void Write(Utf8JsonWriter writer, HiveNode node)
    {
        writer.WriteStartObject();
        writer.WriteString("name", node.Name);
        writer.WriteNumber("written", node.LastWritten);
        if (node.Flags != 0) writer.WriteNumber("flags", node.Flags);
        if (node.Security is { } security) writer.WriteString("security", Convert.ToHexStringLower(security));
        if (node.ClassName.Length > 0) writer.WriteString("class", Convert.ToHexStringLower(node.ClassName));
        writer.WriteStartArray("values");
        foreach (var value in node.Values)
        {
            writer.WriteStartObject();
            writer.WriteString("name", value.Name);
            writer.WriteNumber("type", (uint)value.Type);
            writer.WriteString("data", Convert.ToHexStringLower(value.Data));
            if ((value.AsText() ?? (value.AsTextList() is { } list ? string.Join(" | ", list) : null)) is { } text)
                writer.WriteString("text", text);
            writer.WriteEndObject();
        }

        writer.WriteEndArray();
        writer.WriteStartArray("keys");
        foreach (var child in node.Children) Write(writer, child);
        writer.WriteEndArray();
        writer.WriteEndObject();
    }

    private static HiveNode ReadNode(JsonNode json, int depth)
    {
        if (depth > DepthLimit) throw new FormatException("keys are nested too deep");
        var node = new HiveNode(json["name"]!.GetValue<string>())
        {
            LastWritten = json["written"]!.GetValue<long>(),
            Flags = json["flags"]?.GetValue<ushort>() ?? 0,
            Security = json["security"] is { } security ? Convert.FromHexString(security.GetValue<string>()) : null,
            ClassName = json["class"] is { } name ? Convert.FromHexString(name.GetValue<string>()) : []
        };
        foreach (var value in json["values"]!.AsArray())
        {
            node.Values.Add(
                new HiveValue(
                    value!["name"]!.GetValue<string>(),
                    (HiveValueType)value["type"]!.GetValue<uint>(),
                    Convert.FromHexString(value["data"]!.GetValue<string>())));
        }

        foreach (var child in json["keys"]!.AsArray()) node.Children.Add(ReadNode(child!, depth + 1));
        return node;
    }
}
