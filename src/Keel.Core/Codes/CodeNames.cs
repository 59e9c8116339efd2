using System.Globalization;

namespace Keel.Core.Codes;

/// <summary>
/// The published names of all status and stop codes, about starting or not (MS-ERREF, and the headers of mingw-w64; names and
/// numbers are facts). A code that is only here has no explanation.
/// </summary>
public sealed class CodeNames
{
    private const string StatusResource = "Codes/status-names.txt", StopResource = "Codes/stop-names.txt";
    private readonly Lazy<Dictionary<uint, string>> statuses = new(() => Read(StatusResource));
    private readonly Lazy<Dictionary<uint, string>> stops = new(() => Read(StopResource));

    /// <summary>The name of a status; null where there is none of that number.</summary>
    public string? OfStatus(uint number) => statuses.Value.GetValueOrDefault(number);

    /// <summary>The name of a stop code; null where there is none of that number.</summary>
    public string? OfStop(uint number) => stops.Value.GetValueOrDefault(number);

    /// <summary>
    /// The number of a name, with or without "STATUS_", words parted by underscores or spaces; null where it is none.
    /// </summary>
    public (uint Number, bool IsStop)? Named(string text)
    {
        var name = string.Join('_', text.ToUpperInvariant().Split([' ', '_'], StringSplitOptions.RemoveEmptyEntries));
        if (!name.Contains('_', StringComparison.Ordinal)) return null;
        foreach (var (number, known) in stops.Value)
        {
            if (known == name) return (number, true);
        }

        foreach (var (number, known) in statuses.Value)
        {
            if (known == name || known == $"STATUS_{name}") return (number, false);
        }

        return null;
    }

    /// <summary>Lines of a number, 8 hexadecimal digits, and a name.</summary>
    private static Dictionary<uint, string> Read(string resource)
    {
        const int digits = 8;
        using var stream = typeof(CodeNames).Assembly.GetManifestResourceStream(resource)!;
        using var reader = new StreamReader(stream);
        var names = new Dictionary<uint, string>();
        while (reader.ReadLine() is { } line)
        {
            var number = uint.Parse(line.AsSpan(0, digits), NumberStyles.HexNumber, CultureInfo.InvariantCulture);
            names[number] = line[(digits + 1)..];
        }

        return names;
    }
}
