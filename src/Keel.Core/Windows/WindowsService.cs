using Keel.Core.Hives;

namespace Keel.Core.Windows;

/// <summary>A driver or service as a control set lists it.</summary>
/// <param name="Name">Its name.</param>
/// <param name="Start">Its start type; null where it has none.</param>
/// <param name="Override">A start type that counts instead (StartOverride); null where there is none.</param>
/// <param name="Type">1 and 2: drivers; 0x10 and above: services.</param>
/// <param name="ErrorControl">What happens when it can't be started: 0 and 1 go on, 2 and 3 don't.</param>
/// <param name="Group">The group that it starts with; null where it has none.</param>
/// <param name="ImagePath">As it stands; empty where the usual place is meant.</param>
/// <param name="Title">What it is called.</param>
public sealed record WindowsService(
    string Name,
    ServiceStart? Start,
    ServiceStart? Override,
    uint Type,
    uint ErrorControl,
    string Group,
    string ImagePath,
    string Title)
{
    private const uint FirstCritical = 2;

    /// <summary>Whether it is a driver: of a device (1) or a file system (2).</summary>
    public bool IsDriver => Type is 1 or 2;

    /// <summary>The start type that counts.</summary>
    public ServiceStart? Effective => Override ?? Start;

    /// <summary>Whether Windows stops where it can't be started.</summary>
    public bool IsCritical => ErrorControl >= FirstCritical;

    /// <summary>The file of a driver, from the top of the Windows volume; null where it lies elsewhere.</summary>
    public string? FileIn(string windowsFolder)
    {
        const string systemRoot = @"\SystemRoot\", kernelPrefix = @"\??\";
        var path = ImagePath.Trim('"', ' ');
        if (path.Length == 0) return $@"{windowsFolder}\System32\drivers\{Name}.sys";
        if (path.StartsWith(systemRoot, StringComparison.OrdinalIgnoreCase))
            return $@"{windowsFolder}\{path[systemRoot.Length..]}";
        if (path.StartsWith(kernelPrefix, StringComparison.Ordinal)) path = path[kernelPrefix.Length..];
        if (path.Length > 2 && path[1] == ':')
            return path[2..].StartsWith(windowsFolder + '\\', StringComparison.OrdinalIgnoreCase) ? path[2..] : null;
        return path.StartsWith('\\') || path.StartsWith('%') ? null : $@"{windowsFolder}\{path}";
    }

    internal static WindowsService Of(HiveKey key)
    {
        var values = key
            .Values()
            .GroupBy(value => value.Name, StringComparer.OrdinalIgnoreCase)
            .ToDictionary(group => group.Key, group => group.First(), StringComparer.OrdinalIgnoreCase);
        uint? Number(string name) => values.GetValueOrDefault(name)?.AsNumber();
        string Text(string name) => values.GetValueOrDefault(name)?.AsText() ?? "";
        return new WindowsService(
            key.Name,
            StartOf(Number("Start")),
            key.SubkeyCount == 0 ? null : StartOf(key.Find("StartOverride")?.Value("0")?.AsNumber()),
            Number("Type") ?? 0,
            Number("ErrorControl") ?? 0,
            Text("Group"),
            Text("ImagePath"),
            Text("DisplayName"));
    }

    private static ServiceStart? StartOf(uint? number) => number is { } known and <= 4 ? (ServiceStart)known : null;
}
