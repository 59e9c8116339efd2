using Keel.Core.Hives;
using Keel.Core.Volumes;

namespace Keel.Core.Windows.Drivers;

/// <summary>The service of a driver as its INF describes it.</summary>
/// <param name="Name">The service key.</param>
/// <param name="FileName">The driver's file, without a folder.</param>
/// <param name="Start">When the INF wants it started; null where it does not say.</param>
/// <param name="ErrorControl">How bad its absence is.</param>
/// <param name="Group">The load order group; empty for none.</param>
/// <param name="Values">What stands below the service key, by the path from there.</param>
public sealed record DriverService(
    string Name,
    string FileName,
    uint? Start,
    uint ErrorControl,
    string Group,
    IReadOnlyList<(string Key, HiveValue Value)> Values)
{
    private const string DriversFolder = "%12%";
    private const int ValuesLimit = 2_000;

    /// <summary>The driver's own service of an install section; null where it adds none, or one that is no driver.</summary>
    internal static DriverService? Of(InfFile inf, string section)
    {
        foreach (var line in inf.Section($"{section}.Services"))
        {
            if (!line.Is("AddService") || line.Values.Count < 3 || !DriverPackage.IsOwnDriver(inf.Said(line[1]))) continue;
            var name = inf.Said(line[0]);
            var own = inf.Said(line[2]);
            if (name.Length == 0 || name.AsSpan().ContainsAny('\\', '/')) return null;
            var binary = inf.Value(own, "ServiceBinary") ?? "";
            if (!binary.StartsWith(DriversFolder + "\\", StringComparison.Ordinal)) return null;
            return new DriverService(
                name,
                VolumeExtensions.NameOf(binary),
                DriverPackage.NumberOf(inf.Value(own, "StartType") ?? ""),
                DriverPackage.NumberOf(inf.Value(own, "ErrorControl") ?? "") ?? 1,
                inf.Value(own, "LoadOrderGroup") ?? "",
                [.. Settings(inf, own).Take(ValuesLimit)]);
        }

        return null;
    }

    private static IEnumerable<(string Key, HiveValue Value)> Settings(InfFile inf, string service)
    {
        var sections = inf.Section(service).Where(line => line.Is("AddReg")).SelectMany(line => line.Values);
        foreach (var line in sections.SelectMany(inf.Section))
        {
            if (!line[0].Equals("HKR", StringComparison.OrdinalIgnoreCase) || line[2].Length == 0) continue;
            if (ValueOf(inf, line) is { } value) yield return (inf.Said(line[1]), value);
        }
    }

    /// <summary>What the flags of an AddReg line call the type, and its data; null for what no driver's service needs.</summary>
    private static HiveValue? ValueOf(InfFile inf, InfLine line)
    {
        const uint text = 0, expandable = 0x20000, several = 0x10000, number = 0x10001, typeMask = 0xFFFF0001;
        var name = inf.Said(line[2]);
        return ((DriverPackage.NumberOf(line[3]) ?? text) & typeMask) switch
        {
            number when DriverPackage.NumberOf(line[4]) is { } data => HiveValue.OfNumber(name, data),
            text or expandable => HiveValue.OfText(name, inf.Said(line[4])),
            several => HiveValue.OfTextList(name, line.Values.Skip(4).Select(inf.Said)),
            _ => null
        };
    }
}
