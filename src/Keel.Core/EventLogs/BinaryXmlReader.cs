namespace Keel.Core.EventLogs;

/// <summary>
/// Reads the binary XML of one chunk. Names and templates stand where they are used first, and are found by their offset in the
/// chunk; each is read once. Whatever the bytes are, a piece is read in time that goes with its size.
/// </summary>
/// <param name="chunk">The chunk's 64 KiB.</param>
internal sealed class BinaryXmlReader(byte[] chunk)
{
    private const int NameHeadBytes = 8, TemplateHeadBytes = 24, ValueHeadBytes = 4;
    private const int LeavesLimit = 512, ValuesLimit = 512, DepthLimit = 32, NameLimit = 256;

    private readonly Dictionary<int, string?> names = [];
    private readonly Dictionary<int, IReadOnlyList<XmlLeaf>?> templates = [];

    /// <summary>The piece in a range of the chunk; null where it is damaged.</summary>
    /// <param name="start">Its first byte.</param>
    /// <param name="end">Behind its last byte.</param>
    /// <param name="isInValue">It is the value of a place: elements have no dependency there.</param>
    public XmlPiece? Read(int start, int end, bool isInValue = false)
    {
        var cursor = new ByteCursor(chunk.AsSpan(0, end), start);
        if (cursor.Byte() == BinaryXmlToken.FragmentHeader) cursor.Skip(3);
        else cursor = new ByteCursor(chunk.AsSpan(0, end), start);
        if (!cursor.IsPast(end) && chunk[cursor.At] == BinaryXmlToken.Template) return Instance(ref cursor);
        return Leaves(ref cursor, end, isInValue) is { } leaves ? new XmlPiece(leaves, []) : null;
    }

    private XmlPiece? Instance(ref ByteCursor cursor)
    {
        const int tokenAndVersion = 2;
        cursor.Skip(tokenAndVersion);
        cursor.UInt32();
        var definition = cursor.Offset();
        if (cursor.Failed || Template(definition) is not { } leaves) return null;
        if (definition == cursor.At)
        {
            cursor.Skip(TemplateHeadBytes - sizeof(uint));
            cursor.Skip(cursor.Offset());
        }

        var count = cursor.UInt32();
        if (cursor.Failed || count > ValuesLimit) return null;
        var values = new (int At, int Size, byte Type)[count];
        var at = cursor.At + ((int)count * ValueHeadBytes);
        for (var place = 0; place < values.Length; place++)
        {
            int size = cursor.UInt16();
            var type = (byte)cursor.UInt16();
            values[place] = (at, size, type);
            at += size;
        }

        return cursor.Failed || at > chunk.Length ? null : new XmlPiece(leaves, values);
    }

    private IReadOnlyList<XmlLeaf>? Template(int at)
    {
        if (templates.TryGetValue(at, out var known)) return known;
        var head = new ByteCursor(chunk, at);
        head.Skip(TemplateHeadBytes - sizeof(uint));
        var size = head.Offset();
        var end = Math.Min(head.At + size, chunk.Length);
        var body = new ByteCursor(chunk.AsSpan(0, end), head.At);
        if (body.Byte() == BinaryXmlToken.FragmentHeader) body.Skip(3);
        else body.Fail();
        return templates[at] = head.Failed || body.Failed ? null : Leaves(ref body, end, isInValue: false);
    }

    /// <summary>Goes through the tokens of elements up to the end mark.</summary>
    private List<XmlLeaf>? Leaves(ref ByteCursor cursor, int end, bool isInValue)
    {
        var leaves = new List<XmlLeaf>();
        var open = new Stack<(string Name, int Ordinal)>();
        var (count, attribute) = (0, (string?)null);
        while (!cursor.IsPast(end))
        {
            var token = cursor.Byte();
            switch (token & ~BinaryXmlToken.MoreFlag)
            {
                case BinaryXmlToken.End:
                    return leaves;
                case BinaryXmlToken.OpenElement:
                    open.Push((Element(ref cursor, (token & BinaryXmlToken.MoreFlag) != 0, isInValue), count++));
                    attribute = null;
                    break;
                case BinaryXmlToken.CloseStart:
                    attribute = null;
                    break;
                case BinaryXmlToken.CloseEmpty or BinaryXmlToken.EndElement:
                    attribute = null;
                    if (!open.TryPop(out _)) cursor.Fail();
                    break;
                case BinaryXmlToken.Attribute:
                    attribute = Name(ref cursor);
                    break;
                default:
                    if (Content(ref cursor, token) is var (literal, place) && open.TryPeek(out var element))
                        leaves.Add(new XmlLeaf(element.Name, element.Ordinal, attribute, literal, place));
                    break;
            }

            if (leaves.Count > LeavesLimit || open.Count > DepthLimit) cursor.Fail();
        }

        return cursor.Failed ? null : leaves;
    }

    /// <summary>The text or the place of a value that a token gives; null where it gives none.</summary>
    private (string Literal, int Place)? Content(ref ByteCursor cursor, byte token)
    {
        switch (token & ~BinaryXmlToken.MoreFlag)
        {
            case BinaryXmlToken.Value:
                if (cursor.Byte() != BinaryXmlType.Text) cursor.Fail();
                return (cursor.Text(cursor.UInt16()), -1);
            case BinaryXmlToken.CData:
                return (cursor.Text(cursor.UInt16()), -1);
            case BinaryXmlToken.Character:
                return ($"{(char)cursor.UInt16()}", -1);
            case BinaryXmlToken.Entity:
                return (Entity(Name(ref cursor)), -1);
            case BinaryXmlToken.Substitution or BinaryXmlToken.OptionalSubstitution:
                int place = cursor.UInt16();
                cursor.Byte();
                return ("", place);
            case BinaryXmlToken.InstructionTarget:
                Name(ref cursor);
                return null;
            case BinaryXmlToken.InstructionData:
                cursor.Text(cursor.UInt16());
                return null;
            default:
                cursor.Fail();
                return null;
        }
    }

    private string Element(ref ByteCursor cursor, bool hasAttributes, bool isInValue)
    {
        // A dependency stands first, but not in the XML of a value; which of both it is shows in the name that must follow.
        var start = cursor.At;
        var name = ElementAt(start, hasDependency: !isInValue, hasAttributes, out var behind)
            ?? ElementAt(start, hasDependency: isInValue, hasAttributes, out behind);
        if (name is null) cursor.Fail();
        else cursor.Skip(behind - start);
        return name ?? "";
    }

    private string? ElementAt(int start, bool hasDependency, bool hasAttributes, out int behind)
    {
        var cursor = new ByteCursor(chunk, start);
        if (hasDependency) cursor.UInt16();
        cursor.Offset();
        var name = cursor.Failed ? null : Name(ref cursor);
        if (hasAttributes) cursor.UInt32();
        behind = cursor.At;
        return cursor.Failed ? null : name;
    }

    /// <summary>A name by the offset that the cursor stands at; where the name itself follows, it is passed.</summary>
    private string Name(ref ByteCursor cursor)
    {
        var at = cursor.Offset();
        if (cursor.Failed) return "";
        if (!names.TryGetValue(at, out var name)) names[at] = name = NameAt(at);
        if (name is null) cursor.Fail();
        else if (at == cursor.At) cursor.Skip(NameHeadBytes + (name.Length * sizeof(char)) + sizeof(char));
        return name ?? "";
    }

    private string? NameAt(int at)
    {
        var cursor = new ByteCursor(chunk, at);
        cursor.UInt32();
        cursor.UInt16();
        var length = cursor.UInt16();
        if (length is 0 or > NameLimit) return null;
        var name = cursor.Text(length);
        return cursor.Failed ? null : name;
    }

    private static string Entity(string name) => name switch
    {
        "amp" => "&",
        "lt" => "<",
        "gt" => ">",
        "quot" => "\"",
        "apos" => "'",
        _ => ""
    };
}
