using System.Buffers.Binary;
using System.Text;

namespace Keel.Core.EventLogs;

/// <summary>Writes one event as binary XML: an instance of a template, and the template where the chunk has none yet.</summary>
/// <param name="chunk">The chunk's 64 KiB.</param>
/// <param name="start">Where the XML begins.</param>
/// <param name="names">Where each name stands in the chunk.</param>
/// <param name="templates">Where each template stands in the chunk.</param>
internal sealed class BinaryXmlWriter(byte[] chunk, int start, Dictionary<string, int> names, Dictionary<string, int> templates)
{
    private static readonly byte[] FragmentHeader = [BinaryXmlToken.FragmentHeader, 1, 1, 0];

    private bool isFull;

    /// <summary>Behind the last byte written.</summary>
    public int End { get; private set; } = start;

    /// <summary>Writes the event; false where the chunk has no room.</summary>
    public bool TryWrite(ulong number, WrittenEvent logged, string computer)
    {
        WrittenValue[] values =
        [
            new("", BinaryXmlType.UInt16, BitConverter.GetBytes(logged.Id)),
            new("", BinaryXmlType.UInt8, [logged.Level]),
            new("", BinaryXmlType.FileTime, BitConverter.GetBytes(logged.Time.ToFileTime())),
            new("", BinaryXmlType.UInt64, BitConverter.GetBytes(number)),
            .. logged.Values
        ];
        var kind = string.Join('\n', [logged.Provider, .. logged.Values.Select(value => $"{value.Name} {value.Type}")]);
        var isNew = !templates.TryGetValue(kind, out var template);
        Put(FragmentHeader);
        Put([BinaryXmlToken.Template, 1]);
        Put(BitConverter.GetBytes(IdOf(kind)));
        if (isNew) template = templates[kind] = End + sizeof(uint);
        Put(BitConverter.GetBytes(template));
        if (isNew) Template(kind, logged, computer);
        Put(BitConverter.GetBytes(values.Length));
        foreach (var value in values) Put([.. BitConverter.GetBytes((ushort)value.Data.Length), value.Type, 0]);
        foreach (var value in values) Put(value.Data);
        Put([BinaryXmlToken.End]);
        return !isFull;
    }

    private static uint IdOf(string kind)
    {
        var hash = 2166136261u;
        foreach (var letter in kind) hash = (hash ^ letter) * 16777619;
        return hash;
    }

    private void Template(string kind, WrittenEvent logged, string computer)
    {
        const int identifierBytes = 16;
        var list = EventLogChunkRecord.TemplatesAt + ((int)(IdOf(kind) % EventLogChunkRecord.TemplateLists) * sizeof(uint));
        var at = End;
        Put(chunk.AsSpan(list, sizeof(uint)).ToArray());
        BinaryPrimitives.WriteInt32LittleEndian(chunk.AsSpan(list), at);
        Put([.. BitConverter.GetBytes(IdOf(kind)), .. new byte[identifierBytes - sizeof(uint)]]);
        var size = Room();
        Put(FragmentHeader);
        Element("Event", [], () =>
        {
            Element("System", [], () =>
            {
                Element("Provider", [("Name", () => Text(logged.Provider))], content: null);
                Element("EventID", [], () => Place(0, BinaryXmlType.UInt16));
                Element("Level", [], () => Place(1, BinaryXmlType.UInt8));
                Element("TimeCreated", [("SystemTime", () => Place(2, BinaryXmlType.FileTime))], content: null);
                Element("EventRecordID", [], () => Place(3, BinaryXmlType.UInt64));
                Element("Channel", [], () => Text("System"));
                Element("Computer", [], () => Text(computer));
            });
            Element("EventData", [], () =>
            {
                foreach (var (value, place) in logged.Values.Select((value, index) => (value, index + 4)))
                {
                    Element(
                        "Data",
                        value.Name.Length == 0 ? [] : [("Name", () => Text(value.Name))],
                        () => Place(place, value.Type));
                }
            });
        });
        Put([BinaryXmlToken.End]);
        Fill(size);
    }

    private void Element(string name, (string Name, Action Value)[] attributes, Action? content)
    {
        Put([(byte)(BinaryXmlToken.OpenElement | (attributes.Length > 0 ? BinaryXmlToken.MoreFlag : 0)), 0xFF, 0xFF]);
        var size = Room();
        Name(name);
        if (attributes.Length > 0)
        {
            var list = Room();
            foreach (var (attribute, value) in attributes)
            {
                Put([BinaryXmlToken.Attribute]);
                Name(attribute);
                value();
            }

            Fill(list);
        }

        if (content is null)
        {
            Put([BinaryXmlToken.CloseEmpty]);
        }
        else
        {
            Put([BinaryXmlToken.CloseStart]);
            content();
            Put([BinaryXmlToken.EndElement]);
        }

        Fill(size);
    }

    private void Text(string text)
    {
        Put([BinaryXmlToken.Value, BinaryXmlType.Text]);
        Put(BitConverter.GetBytes((ushort)text.Length));
        Put(Encoding.Unicode.GetBytes(text));
    }

    private void Place(int place, byte type) =>
        Put([BinaryXmlToken.Substitution, .. BitConverter.GetBytes((ushort)place), type]);

    private void Name(string name)
    {
        if (names.TryGetValue(name, out var known))
        {
            Put(BitConverter.GetBytes(known));
            return;
        }

        var at = names[name] = End + sizeof(uint);
        Put(BitConverter.GetBytes(at));
        var hash = (ushort)name.Aggregate(0u, (sum, letter) => (sum * 65599) + letter);
        var list = EventLogChunkRecord.NamesAt + (hash % EventLogChunkRecord.NameLists * sizeof(uint));
        Put(chunk.AsSpan(list, sizeof(uint)).ToArray());
        BinaryPrimitives.WriteInt32LittleEndian(chunk.AsSpan(list), at);
        Put(BitConverter.GetBytes(hash));
        Put(BitConverter.GetBytes((ushort)name.Length));
        Put([.. Encoding.Unicode.GetBytes(name), 0, 0]);
    }

    /// <summary>Leaves room for a size that is known later.</summary>
    private int Room()
    {
        Put(new byte[sizeof(uint)]);
        return End - sizeof(uint);
    }

    /// <summary>Writes into the room how many bytes came behind it.</summary>
    private void Fill(int room)
    {
        if (!isFull) BinaryPrimitives.WriteInt32LittleEndian(chunk.AsSpan(room), End - room - sizeof(uint));
    }

    private void Put(ReadOnlySpan<byte> bytes)
    {
        isFull |= bytes.Length > chunk.Length - End;
        if (isFull) return;
        bytes.CopyTo(chunk.AsSpan(End));
        End += bytes.Length;
    }
}
