using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Chain.Checks;

/// <summary>
/// Drivers that sit above or below every device of a class: one that is named there and can't be started keeps all of them from
/// starting.
/// </summary>
internal static class ClassFilters
{
    public static readonly FindingKind OfDisk = new(
        "class-filter-without-driver",
        Link.StartDrivers,
        Severity.Error,
        "A filter of disks, volumes or controllers is named whose driver is not there.",
        StartupScreens.InaccessibleBootDevice);

    public static readonly FindingKind OfInput = new(
        "input-filter-without-driver",
        Link.StartDrivers,
        Severity.Warning,
        "A filter of keyboards or mice is named whose driver is not there: they are dead at the sign-in.");

    /// <summary>Disks, volumes, both kinds of controllers, system devices: identifiers of their setup classes.</summary>
    private static readonly string[] DiskClasses =
    [
        "{4d36e967-e325-11ce-bfc1-08002be10318}",
        "{71a27cdd-812a-11d0-bec7-08002be2092f}",
        "{4d36e97b-e325-11ce-bfc1-08002be10318}",
        "{4d36e96a-e325-11ce-bfc1-08002be10318}",
        "{4d36e97d-e325-11ce-bfc1-08002be10318}"
    ];

    /// <summary>Keyboards, mice.</summary>
    private static readonly string[] InputClasses =
    [
        "{4d36e96b-e325-11ce-bfc1-08002be10318}",
        "{4d36e96f-e325-11ce-bfc1-08002be10318}"
    ];

    /// <summary>
    /// Filters that belong to Windows itself: where one of them is not there, its file is what has to come back.
    /// </summary>
    private static readonly string[] OfWindows = ["partmgr", "volsnap", "fvevol", "EhStorClass", "disk", "kbdclass", "mouclass"];

    private static readonly string[] Lists = ["UpperFilters", "LowerFilters"];

    public static IReadOnlyList<FindingKind> Kinds => [OfDisk, OfInput];

    /// <summary>A finding for each kind of class that has such filters.</summary>
    public static IEnumerable<Finding> Of(StartedWindows windows, SystemHive hive) => Wrong(windows, hive)
        .GroupBy(list => list.Kind)
        .Select(group => group.Key.At(
            Fact.Names.Is([.. group.SelectMany(list => list.Gone).Distinct(StringComparer.OrdinalIgnoreCase)]),
            Fact.Settings.Is([.. group.Select(list => list.Value).Distinct()])));

    /// <summary>Each list that names something that can't be started.</summary>
    public static IReadOnlyList<FilterList> Wrong(StartedWindows windows, SystemHive hive)
    {
        var services = new Lazy<Dictionary<string, WindowsService>>(() => hive.Services()
            .GroupBy(service => service.Name, StringComparer.OrdinalIgnoreCase)
            .ToDictionary(group => group.Key, group => group.First(), StringComparer.OrdinalIgnoreCase));
        var wrong = new List<FilterList>();
        foreach (var (classes, kind) in ((string[], FindingKind)[])[(DiskClasses, OfDisk), (InputClasses, OfInput)])
        {
            foreach (var (id, value) in classes.SelectMany(id => Lists.Select(value => (id, value))))
            {
                var key = $@"{hive.ControlSet}\Control\Class\{id}";
                if (hive.Root?.Find(key)?.Value(value)?.AsTextList() is not { } listed) continue;
                var names = listed.Where(name => name.Trim().Length > 0).ToList();
                var gone = names.Where(name => IsForeignAndGone(windows, services.Value, name.Trim())).ToList();
                if (gone.Count > 0) wrong.Add(new FilterList(kind, key, value, names, gone));
            }
        }

        return wrong;
    }

    private static bool IsForeignAndGone(
        StartedWindows windows,
        Dictionary<string, WindowsService> services,
        string name) =>
        !OfWindows.Contains(name, StringComparer.OrdinalIgnoreCase)
            && (!services.TryGetValue(name, out var service)
                || service.Effective is null or ServiceStart.Disabled
                || (service.FileIn(windows.Folder) is { } path && !windows.Files.FileExists(path)));
}
