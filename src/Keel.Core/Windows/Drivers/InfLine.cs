using System.Text;

namespace Keel.Core.Windows.Drivers;

/// <summary>A line of an INF.</summary>
/// <param name="Key">What stands before the equals sign; null where there is none.</param>
/// <param name="Values">What is parted by commas, without quotes.</param>
public sealed record InfLine(string? Key, IReadOnlyList<string> Values)
{
    /// <summary>Whether its key has that name.</summary>
    public bool Is(string key) => string.Equals(Key, key, StringComparison.OrdinalIgnoreCase);

    /// <summary>A value by its number; empty where it is left out.</summary>
    public string this[int number] => number < Values.Count ? Values[number] : "";

    internal static InfLine Read(string line)
    {
        var (key, rest) = Parted(line);
        return new InfLine(key, Fields(rest));
    }

    private static (string? Key, string Fields) Parted(string line)
    {
        var quoted = false;
        for (var at = 0; at < line.Length; at++)
        {
            if (line[at] == '"') quoted = !quoted;
            else if (line[at] == ',' && !quoted) break;
            else if (line[at] == '=' && !quoted) return (line[..at].Trim().Trim('"'), line[(at + 1)..]);
        }

        return (null, line);
    }

    /// <summary>Two quotes inside of quoted text are one.</summary>
    private static List<string> Fields(string text)
    {
        var fields = new List<string>();
        var field = new StringBuilder();
        var quoted = false;
        for (var at = 0; at < text.Length; at++)
        {
            var isDoubled = text[at] == '"' && quoted && at + 1 < text.Length && text[at + 1] == '"';
            if (isDoubled) field.Append(text[at++]);
            else if (text[at] == '"') quoted = !quoted;
            else if (text[at] == ',' && !quoted) Close();
            else if (quoted || !char.IsWhiteSpace(text[at]) || field.Length > 0) field.Append(text[at]);
        }

        Close();
        return fields;

        void Close()
        {
            fields.Add(field.ToString().TrimEnd());
            field.Clear();
        }
    }
}
