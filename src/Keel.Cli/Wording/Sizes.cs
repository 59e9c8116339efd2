namespace Keel.Cli.Wording;

/// <summary>Sizes as people read them.</summary>
internal static class Sizes
{
    /// <summary>Such as "64 MiB" or "1.5 GiB".</summary>
    public static string Text(long bytes)
    {
        string[] units = ["bytes", "KiB", "MiB", "GiB", "TiB", "PiB"];
        double value = bytes;
        var unit = 0;
        while (value >= 1024 && unit < units.Length - 1)
        {
            value /= 1024;
            unit++;
        }

        return unit == 0 || value >= 100 || value == Math.Floor(value)
            ? $"{value:0} {units[unit]}"
            : $"{value:0.0} {units[unit]}";
    }
}
