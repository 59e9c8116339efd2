using System.Globalization;
using System.Text;

namespace Keel.Core.BootLists;

/// <summary>
/// The list of systems of the NT 5 loader, <c>boot.ini</c>. Rows that are not changed keep their bytes, whatever they say.
/// </summary>
public sealed class BootList
{
    private const string LoaderSection = "[boot loader]", SystemsSection = "[operating systems]";
    private const string WaitKey = "timeout", DefaultKey = "default";
    private const int MostLines = 200;
    private const byte EndOfText = 0x1A;
    private static readonly byte[] RowEnd = [(byte)'\r', (byte)'\n'];
    private readonly List<byte[]> rows;
    private readonly Encoding page;

    private BootList(List<byte[]> rows, Encoding page)
    {
        this.rows = rows;
        this.page = page;
    }

    /// <summary>How long the menu waits, in seconds; -1 for ever; null where that is not said.</summary>
    public int? WaitSeconds =>
        int.TryParse(Value(WaitKey), NumberStyles.AllowLeadingSign, CultureInfo.InvariantCulture, out var seconds)
            ? seconds
            : null;

    /// <summary>The target that is started when nobody chooses; null where none is named.</summary>
    public string? Default => Value(DefaultKey) is { Length: > 0 } target ? target : null;

    /// <summary>The systems, in their order.</summary>
    public IReadOnlyList<BootLine> Lines =>
        [.. SystemRows().Select((row, index) => BootLine.Read(index + 1, Text(row)))];

    /// <summary>The line that is started when nobody chooses; null where the preferred target has none.</summary>
    public BootLine? Preferred => Default is { } target
        ? Lines.FirstOrDefault(line => IsSame(line.Target, target))
        : Lines.FirstOrDefault();

    /// <summary>Reads a list.</summary>
    /// <param name="file">The bytes of the file.</param>
    /// <param name="page">The code page of its titles.</param>
    public static BootList Read(ReadOnlySpan<byte> file, Encoding page)
    {
        var end = file.IndexOf(EndOfText);
        var rest = end < 0 ? file : file[..end];
        var rows = new List<byte[]>();
        while (rest.Length > 0)
        {
            var at = rest.IndexOf((byte)'\n');
            var row = at < 0 ? rest : rest[..at];
            rows.Add(row.EndsWith("\r"u8) ? row[..^1].ToArray() : row.ToArray());
            rest = at < 0 ? [] : rest[(at + 1)..];
        }

        return new BootList(rows, page);
    }

    /// <summary>A list without systems.</summary>
    /// <param name="page">The code page of its titles.</param>
    /// <param name="waitSeconds">How long the menu waits.</param>
    public static BootList Empty(Encoding page, int waitSeconds) =>
        Read(page.GetBytes($"{LoaderSection}\r\n{WaitKey}={waitSeconds}\r\n{SystemsSection}\r\n"), page);

    /// <summary>The bytes of the file.</summary>
    public byte[] ToBytes() => [.. rows.SelectMany(row => row.Concat(RowEnd))];

    /// <summary>Adds a system at the end.</summary>
    public void Add(string target, string title, string switches)
    {
        var row = page.GetBytes(new BootLine(0, target, title, switches).ToString());
        var systems = SystemRows();
        if (systems.Count > 0) rows.Insert(systems[^1] + 1, row);
        else rows.Insert(SectionAt(SystemsSection) + 1, row);
        if (Default is null || systems.Count == 0) SetValue(DefaultKey, target);
    }

    /// <summary>Takes a system out; where it was the preferred one, the first that is left takes its place.</summary>
    public void Drop(BootLine line)
    {
        rows.RemoveAt(SystemRows()[line.Number - 1]);
        if (Default is { } target && IsSame(target, line.Target) && Preferred is null) PreferFirst();
    }

    /// <summary>Writes a system anew; a preference for it follows.</summary>
    public void Change(BootLine line, BootLine changed)
    {
        var wasPreferred = Preferred == line;
        rows[SystemRows()[line.Number - 1]] = page.GetBytes(changed.ToString());
        if (wasPreferred) SetValue(DefaultKey, changed.Target);
    }

    /// <summary>
    /// Makes a system the preferred one. The loader starts the first line with the preferred target, so a line goes before others
    /// that have the same.
    /// </summary>
    public void Prefer(BootLine line)
    {
        SetValue(DefaultKey, line.Target);
        var first = Lines.First(other => IsSame(other.Target, line.Target));
        if (first.Number == line.Number) return;
        var places = SystemRows();
        var row = rows[places[line.Number - 1]];
        rows.RemoveAt(places[line.Number - 1]);
        rows.Insert(places[first.Number - 1], row);
    }

    /// <summary>Sets how long the menu waits.</summary>
    public void Wait(int seconds) => SetValue(WaitKey, seconds.ToString(CultureInfo.InvariantCulture));

    /// <summary>Names what is started when nobody chooses, whether the list has a line for it or not.</summary>
    public void SetDefault(string target) => SetValue(DefaultKey, target);

    /// <summary>Whether two targets are the same to the loader.</summary>
    public static bool IsSame(string target, string other) =>
        target.Trim().TrimEnd('\\').Equals(other.Trim().TrimEnd('\\'), StringComparison.OrdinalIgnoreCase);

    private void PreferFirst()
    {
        if (Lines is [var first, ..]) SetValue(DefaultKey, first.Target);
    }

    private string? Value(string key) => RowOf(key) is { } at ? Text(at).Split('=', 2)[1].Trim() : null;

    private void SetValue(string key, string value)
    {
        var row = page.GetBytes($"{key}={value}");
        if (RowOf(key) is { } at) rows[at] = row;
        else rows.Insert(SectionAt(LoaderSection) + 1, row);
    }

    private int? RowOf(string key)
    {
        foreach (var at in RowsIn(LoaderSection))
        {
            var text = Text(at);
            var equals = text.IndexOf('=', StringComparison.Ordinal);
            if (equals > 0 && text[..equals].Trim().Equals(key, StringComparison.OrdinalIgnoreCase)) return at;
        }

        return null;
    }

    /// <summary>The rows of the systems; what is behind far more than the loader reads is kept, and not looked at.</summary>
    private List<int> SystemRows() => [.. RowsIn(SystemsSection).Take(MostLines)];

    /// <summary>The rows of a section that say something.</summary>
    private IEnumerable<int> RowsIn(string section)
    {
        var isIn = false;
        for (var at = 0; at < rows.Count; at++)
        {
            var text = Text(at).Trim();
            if (text.StartsWith('[')) isIn = IsSection(text, section);
            else if (isIn && text.Length > 0 && !text.StartsWith(';')) yield return at;
        }
    }

    private static bool IsSection(string text, string section) => text.StartsWith(section, StringComparison.OrdinalIgnoreCase);

    /// <summary>The row of a section's name, which is made where the list has none.</summary>
    private int SectionAt(string section)
    {
        var at = rows.FindIndex(row => IsSection(page.GetString(row).Trim(), section));
        if (at >= 0) return at;
        var place = section == LoaderSection ? 0 : rows.Count;
        rows.Insert(place, page.GetBytes(section));
        return place;
    }

    private string Text(int at) => page.GetString(rows[at]);
}
