using System.Text;
using Keel.Core.Blocks;

namespace Keel.Core.Logbook;

/// <summary>The file that says how far a repair came, part by part, and that its record is whole.</summary>
/// <param name="Document">The checksum of record.json.</param>
/// <param name="Parts">Each disk in order, then the firmware's variables where it wrote some.</param>
internal sealed record RecordStates(Checksum Document, IReadOnlyList<RecordState> Parts)
{
    public const int Format = 2;
    private const string Mark = "keel record ", DocumentWord = "document ", PartWord = "part ", SumWord = "sum ";
    private const int PartLimit = 256;

    public byte[] ToBytes()
    {
        var text =
            new StringBuilder().Append(Mark).Append(Format).Append('\n').Append(DocumentWord).Append(Document).Append('\n');
        foreach (var part in Parts) text.Append(PartWord).Append(part.ToString().ToLowerInvariant()).Append('\n');
        var body = Encoding.ASCII.GetBytes(text.ToString());
        return [.. body, .. Encoding.ASCII.GetBytes($"{SumWord}{Checksum.Of(body)}\n")];
    }

    /// <summary>The number of the format; null where the file is no state of a record.</summary>
    public static int? FormatOf(byte[] bytes)
    {
        var first = Encoding.Latin1.GetString(bytes).Split('\n')[0];
        return first.StartsWith(Mark, StringComparison.Ordinal) && int.TryParse(first[Mark.Length..], out var format)
            ? format
            : null;
    }

    /// <summary>Reads what <see cref="ToBytes"/> wrote; null where it is damaged.</summary>
    public static RecordStates? TryRead(byte[] bytes)
    {
        var text = Encoding.Latin1.GetString(bytes);
        var sumAt = text.LastIndexOf(SumWord, StringComparison.Ordinal);
        if (sumAt < 0 || Checksum.TryParse(text[(sumAt + SumWord.Length)..].TrimEnd('\n')) != Checksum.Of(bytes.AsSpan(0, sumAt)))
            return null;
        var lines = text[..sumAt].Split('\n', StringSplitOptions.RemoveEmptyEntries);
        if (lines.Length is < 3 or > PartLimit
            || !lines[1].StartsWith(DocumentWord, StringComparison.Ordinal)
            || Checksum.TryParse(lines[1][DocumentWord.Length..]) is not { } document)
        {
            return null;
        }

        var parts = new List<RecordState>();
        foreach (var line in lines.Skip(2))
        {
            if (!line.StartsWith(PartWord, StringComparison.Ordinal)
                || !Enum.TryParse<RecordState>(line[PartWord.Length..], ignoreCase: true, out var state))
            {
                return null;
            }

            parts.Add(state);
        }

        return new RecordStates(document, parts);
    }
}
