using System.Globalization;

namespace Keel.Core.EventLogs;

/// <summary>Makes an event of its binary XML: provider and number first, the rest only where it is wanted.</summary>
/// <param name="chunk">The chunk's 64 KiB.</param>
internal sealed class EventReader(byte[] chunk)
{
    private const int PiecesLimit = 32, EventValuesLimit = 128;
    private static readonly string[] SystemElements =
    [
        "Provider", "EventID", "Version", "Level", "Task", "Opcode", "Keywords", "TimeCreated", "EventRecordID", "Correlation",
        "Execution", "Channel", "Computer", "Security"
    ];

    private readonly BinaryXmlReader reader = new(chunk);

    /// <summary>The event, where it is wanted; false where its XML is damaged.</summary>
    /// <param name="start">Where its XML begins in the chunk.</param>
    /// <param name="end">Behind its XML.</param>
    /// <param name="record">The record that it stands in.</param>
    /// <param name="wanted">Asked for provider and number.</param>
    /// <param name="found">The event; null where nobody wants it.</param>
    public bool TryRead(int start, int end, in EventRecord record, Func<string, int, bool> wanted, out LoggedEvent? found)
    {
        found = null;
        if (reader.Read(start, end) is not { } piece) return false;
        var provider = First(piece, "Provider", "Name") ?? First(piece, "Provider", "EventSourceName");
        if (provider is null || !TryId(First(piece, "EventID", null), out var id)) return false;
        if (!wanted(provider, id)) return true;
        var values = new List<EventValue>();
        var pieces = 0;
        Collect(piece, values, ref pieces);
        found = new LoggedEvent(record.Number, EventLog.TimeOf(record.Written), provider, id, values);
        return true;
    }

    private static bool TryId(string? text, out int id) =>
        int.TryParse(text, NumberStyles.None, CultureInfo.InvariantCulture, out id) && id <= ushort.MaxValue;

    private string? First(XmlPiece piece, string element, string? attribute)
    {
        foreach (var leaf in piece.Leaves)
        {
            if (leaf.Element != element || leaf.Attribute != attribute) continue;
            var text = leaf.Place < 0 ? leaf.Literal : TextsAt(piece, leaf.Place).FirstOrDefault();
            if (!string.IsNullOrEmpty(text)) return text;
        }

        return null;
    }

    private IEnumerable<string> TextsAt(XmlPiece piece, int place)
    {
        if (place >= piece.Values.Count) return [];
        var (at, size, type) = piece.Values[place];
        return BinaryXmlValue.Texts(chunk, at, size, type);
    }

    /// <summary>The values behind the event's head, and those of the pieces that stand in values.</summary>
    private void Collect(XmlPiece piece, List<EventValue> values, ref int pieces)
    {
        if (++pieces > PiecesLimit) return;
        var (name, ordinal) = ("", -1);
        foreach (var leaf in piece.Leaves)
        {
            if (values.Count >= EventValuesLimit) return;
            if (SystemElements.Contains(leaf.Element)) continue;
            if (leaf.Ordinal != ordinal) (name, ordinal) = ("", leaf.Ordinal);
            if (leaf.Attribute is not null)
            {
                if (leaf.Attribute == "Name")
                    name = leaf.Place < 0 ? leaf.Literal : TextsAt(piece, leaf.Place).FirstOrDefault() ?? "";
                continue;
            }

            if (IsPieceAt(piece, leaf.Place, out var inner))
            {
                if (inner is not null) Collect(inner, values, ref pieces);
                continue;
            }

            if (name.Length == 0 && leaf.Element != "Data") name = leaf.Element;
            if (leaf.Place < 0) values.Add(new EventValue(name, leaf.Literal));
            else values.AddRange(TextsAt(piece, leaf.Place).Select(text => new EventValue(name, text)));
        }
    }

    private bool IsPieceAt(XmlPiece piece, int place, out XmlPiece? inner)
    {
        inner = null;
        if (place < 0 || place >= piece.Values.Count || piece.Values[place].Type != BinaryXmlType.Fragment) return false;
        var (at, size, _) = piece.Values[place];
        inner = reader.Read(at, at + size, isInValue: true);
        return true;
    }
}
