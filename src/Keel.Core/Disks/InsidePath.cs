namespace Keel.Core.Disks;

/// <summary>Where a virtual disk lies inside another disk: a file of one of its volumes.</summary>
/// <param name="Volume">The number of the volume, from 1.</param>
/// <param name="File">The path of the file, from the volume's root.</param>
public sealed record InsidePath(int Volume, string File)
{
    private const string Lead = "volume:";

    /// <summary>Reads what a technician types; null where it is none.</summary>
    public static InsidePath? TryParse(string text)
    {
        var rest = text.StartsWith(Lead, StringComparison.OrdinalIgnoreCase) ? text[Lead.Length..] : text;
        var colon = rest.IndexOf(':', StringComparison.Ordinal);
        if (colon <= 0 || !int.TryParse(rest[..colon], out var number) || number <= 0) return null;
        var file = rest[(colon + 1)..].Replace('/', '\\');
        if (file.Trim('\\').Length == 0) return null;
        return new InsidePath(number, file.StartsWith('\\') ? file : '\\' + file);
    }

    /// <summary>"volume:2:\machines\second.vhdx", as it is typed.</summary>
    public override string ToString() => $"{Lead}{Volume}:{File}";
}
