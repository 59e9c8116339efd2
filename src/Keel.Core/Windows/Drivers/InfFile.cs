using System.Text;

namespace Keel.Core.Windows.Drivers;

/// <summary>
/// The text of an INF: named sections of lines, each a key with values, or values alone. Sections of the same name are one, names
/// are matched without case, and %tokens% stand for what [Strings] says.
/// </summary>
public sealed class InfFile
{
    private const int LinesLimit = 200_000, LineLimit = 8_192;

    private readonly Dictionary<string, List<InfLine>> sections = new(StringComparer.OrdinalIgnoreCase);
    private readonly Dictionary<string, string> strings = new(StringComparer.OrdinalIgnoreCase);

    private InfFile()
    {
    }

    /// <summary>Reads the bytes of an INF; what is no line of one is passed over.</summary>
    public static InfFile Read(ReadOnlySpan<byte> bytes)
    {
        var inf = new InfFile();
        List<InfLine>? section = null;
        foreach (var line in Lines(TextOf(bytes)).Take(LinesLimit))
        {
            if (line is ['[', ..] && line.IndexOf(']', StringComparison.Ordinal) is var end and > 0)
            {
                var name = line[1..end].Trim();
                if (!inf.sections.TryGetValue(name, out section)) inf.sections.Add(name, section = []);
            }
            else
            {
                section?.Add(InfLine.Read(line));
            }
        }

        foreach (var text in inf.Section("Strings"))
            if (text.Key is { } key && text.Values is [var value, ..]) inf.strings.TryAdd(key, value);
        return inf;
    }

    /// <summary>Whether there is such a section.</summary>
    public bool Has(string name) => sections.ContainsKey(name);

    /// <summary>The lines of a section; none where there is no such one.</summary>
    public IReadOnlyList<InfLine> Section(string name) => sections.GetValueOrDefault(name, []);

    /// <summary>The first value of a key, its tokens replaced; null where there is none.</summary>
    public string? Value(string section, string key) =>
        Section(section).FirstOrDefault(line => line.Is(key))?.Values is [var value, ..] ? Said(value) : null;

    /// <summary>A text with what its %tokens% stand for; those that [Strings] does not have stay as they are.</summary>
    public string Said(string text)
    {
        if (!text.Contains('%')) return text;
        var parts = text.Split('%');
        var said = new StringBuilder(parts[0]);
        for (var number = 1; number < parts.Length; number++)
        {
            if (number % 2 == 0) said.Append(parts[number]);
            else if (number == parts.Length - 1) said.Append('%').Append(parts[number]);
            else if (strings.TryGetValue(parts[number], out var value)) said.Append(value);
            else said.Append('%').Append(parts[number]).Append('%');
        }

        return said.ToString();
    }

    private static string TextOf(ReadOnlySpan<byte> bytes) => bytes switch
    {
        [0xFF, 0xFE, ..] => Encoding.Unicode.GetString(bytes[2..]),
        [0xFE, 0xFF, ..] => Encoding.BigEndianUnicode.GetString(bytes[2..]),
        [0xEF, 0xBB, 0xBF, ..] => Encoding.UTF8.GetString(bytes[3..]),
        _ => Encoding.Latin1.GetString(bytes)
    };

    /// <summary>Lines without comments and blanks around; one that ends in a backslash goes on in the next.</summary>
    private static IEnumerable<string> Lines(string text)
    {
        var open = "";
        foreach (var raw in text.Split('\n'))
        {
            var line = open + WithoutComment(raw).Trim();
            if (line.EndsWith('\\') && line.Length < LineLimit)
            {
                open = line[..^1];
                continue;
            }

            open = "";
            if (line.Length > 0) yield return line;
        }
    }

    private static string WithoutComment(string line)
    {
        var quoted = false;
        for (var at = 0; at < line.Length; at++)
        {
            if (line[at] == '"') quoted = !quoted;
            else if (line[at] == ';' && !quoted) return line[..at];
        }

        return line;
    }
}
