namespace Keel.Core.Windows;

/// <summary>Names that Windows can work with.</summary>
public static class WindowsNames
{
    private const string Forbidden = "<>:\"/\\|?*";
    private const int Longest = 255;

    private static readonly string[] Devices =
    [
        "CON", "PRN", "AUX", "NUL", "COM1", "COM2", "COM3", "COM4", "COM5", "COM6", "COM7", "COM8", "COM9",
        "LPT1", "LPT2", "LPT3", "LPT4", "LPT5", "LPT6", "LPT7", "LPT8", "LPT9"
    ];

    /// <summary>Why Windows could not open a file of that name; null where it can.</summary>
    public static string? WhyNot(string name)
    {
        if (name.Length == 0) return "A file has to have a name.";
        if (name.Length > Longest) return $"A name has {Longest} characters at most.";
        if (name is "." or "..") return $"\"{name}\" stands for a folder.";
        if (name.AsSpan().ContainsAny(Forbidden)) return $"None of {Forbidden} can stand in a name.";
        if (name.AsSpan().ContainsAnyInRange('\0', '\u001f')) return "There is a control character in the name.";
        if (name[^1] is '.' or ' ') return "A name can't end in a dot or a space.";
        return Devices.Contains(name.Split('.')[0].TrimEnd(), StringComparer.OrdinalIgnoreCase)
            ? $"\"{name}\" is the name of a device."
            : null;
    }
}
