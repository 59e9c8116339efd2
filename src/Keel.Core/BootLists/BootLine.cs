namespace Keel.Core.BootLists;

/// <summary>A line of the list that the NT 5 loader shows.</summary>
/// <param name="Number">Its number among the systems, from 1.</param>
/// <param name="Target">What it starts: an ARC path, or a file with a boot sector.</param>
/// <param name="Title">What the menu shows; null where the line has none.</param>
/// <param name="Switches">What stands behind the title, such as <c>/noexecute=optin</c>.</param>
public sealed record BootLine(int Number, string Target, string? Title, string Switches)
{
    /// <summary>The loader reads no more lines than this.</summary>
    public const int MostRead = 10;

    /// <summary>The target as an ARC path; null where it is a file.</summary>
    public ArcPath? Arc => ArcPath.TryParse(Target);

    /// <summary>The value of a switch, such as that of /HAL=; null where it is not there.</summary>
    public string? ValueOf(string name)
    {
        foreach (var part in Switches.Split(' ', StringSplitOptions.RemoveEmptyEntries))
        {
            if (part.StartsWith($"/{name}=", StringComparison.OrdinalIgnoreCase)) return part[(name.Length + 2)..];
        }

        return null;
    }

    /// <summary>The line as it is written.</summary>
    public override string ToString() =>
        $"{Target}{(Title is null ? "" : $"=\"{Title}\"")}{(Switches.Length > 0 ? " " : "")}{Switches}";

    /// <summary>Reads a line; what stands in quotes is the title, what is behind it the switches.</summary>
    internal static BootLine Read(int number, string row)
    {
        var equals = row.IndexOf('=', StringComparison.Ordinal);
        if (equals < 0) return new BootLine(number, row.Trim(), null, "");
        var target = row[..equals].Trim();
        var rest = row[(equals + 1)..].Trim();
        if (!rest.StartsWith('"'))
        {
            var switches = rest.IndexOf(" /", StringComparison.Ordinal);
            return switches < 0
                ? new BootLine(number, target, rest, "")
                : new BootLine(number, target, rest[..switches].TrimEnd(), rest[(switches + 1)..].Trim());
        }

        var end = rest.IndexOf('"', 1);
        return end < 0
            ? new BootLine(number, target, rest[1..], "")
            : new BootLine(number, target, rest[1..end], rest[(end + 1)..].Trim());
    }
}
