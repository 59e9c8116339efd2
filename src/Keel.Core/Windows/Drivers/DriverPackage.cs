using System.Globalization;
using System.Reflection.PortableExecutable;

namespace Keel.Core.Windows.Drivers;

/// <summary>A driver as the INF of its package installs it on one kind of processor: service, file, and devices.</summary>
/// <param name="InfName">The name of the INF.</param>
/// <param name="Class">The device class, as in SCSIAdapter or HDC.</param>
/// <param name="ClassId">The class' identifier, in braces.</param>
/// <param name="Provider">Who provides it.</param>
/// <param name="Version">The version of the driver, as the INF says it; null where it says none.</param>
/// <param name="Catalog">The name of its catalog; null where it has none.</param>
/// <param name="Service">The service that the driver runs as.</param>
/// <param name="Devices">Identifiers of the devices that it is for.</param>
public sealed record DriverPackage(
    string InfName,
    string Class,
    string ClassId,
    string Provider,
    string? Version,
    string? Catalog,
    DriverService Service,
    IReadOnlyList<string> Devices)
{
    private const uint IsFunctionDriver = 2;                    // SPSVCINST_ASSOCSERVICE
    private const int DevicesLimit = 5_000;

    /// <summary>Whether it is the driver of a disk controller.</summary>
    public bool IsForController => Class.ToUpperInvariant() is "SCSIADAPTER" or "HDC" or "HDCONTROLLER";

    /// <summary>What an INF installs on that processor; null where it installs no driver there.</summary>
    public static DriverPackage? Of(string name, InfFile inf, Machine processor)
    {
        var tail = processor switch { Machine.I386 => "NTx86", Machine.Arm64 => "NTarm64", _ => "NTamd64" };
        foreach (var (section, devices) in Installs(inf, tail))
        {
            if (DriverService.Of(inf, section) is not { } service) continue;
            var catalog = inf.Value("Version", $"CatalogFile.{tail}")
                ?? inf.Value("Version", "CatalogFile.NT")
                ?? inf.Value("Version", "CatalogFile");
            return new DriverPackage(
                name,
                inf.Value("Version", "Class") ?? "",
                inf.Value("Version", "ClassGuid") ?? "",
                inf.Value("Version", "Provider") ?? "",
                VersionOf(inf),
                catalog,
                service,
                devices);
        }

        return null;
    }

    /// <summary>Behind the date in the same line.</summary>
    private static string? VersionOf(InfFile inf) =>
        inf.Section("Version").FirstOrDefault(line => line.Is("DriverVer"))?[1] is { Length: > 0 } version ? version : null;

    /// <summary>Install sections by their services' name part, with the devices that lead to them.</summary>
    private static IEnumerable<(string Section, IReadOnlyList<string> Devices)> Installs(InfFile inf, string tail)
    {
        var devices = new Dictionary<string, List<string>>(StringComparer.OrdinalIgnoreCase);
        foreach (var models in inf.Section("Manufacturer").SelectMany(line => ModelSections(inf, line, tail)))
        {
            foreach (var model in inf.Section(models))
            {
                if (model[0].Length == 0) continue;
                if (!devices.TryGetValue(model[0], out var ids)) devices.Add(model[0], ids = []);
                ids.AddRange(model.Values.Skip(1).Where(id => id.Length > 0).Take(DevicesLimit - ids.Count));
            }
        }

        foreach (var (section, ids) in devices)
        {
            var decorated = ((string[])[$"{section}.{tail}", $"{section}.NT", section]).FirstOrDefault(inf.Has);
            if (decorated is not null) yield return (decorated, ids);
        }
    }

    /// <summary>
    /// The section of a maker's devices for a processor: decorated with it, perhaps with the version of Windows too.
    /// </summary>
    private static IEnumerable<string> ModelSections(InfFile inf, InfLine maker, string tail)
    {
        var fitting = maker.Values
            .Skip(1)
            .Where(decoration => decoration.StartsWith(tail, StringComparison.OrdinalIgnoreCase))
            .Select(decoration => $"{maker[0]}.{decoration}")
            .Where(inf.Has)
            .ToList();
        if (fitting.Count > 0) return fitting;
        return tail == "NTx86" ? [maker[0]] : [];
    }

    /// <summary>The number that a field says, in decimal or with 0x.</summary>
    internal static uint? NumberOf(string text)
    {
        var said = text.Trim();
        return said.StartsWith("0x", StringComparison.OrdinalIgnoreCase)
            ? uint.TryParse(said[2..], NumberStyles.HexNumber, CultureInfo.InvariantCulture, out var hex) ? hex : null
            : uint.TryParse(said, NumberStyles.None, CultureInfo.InvariantCulture, out var number) ? number : null;
    }

    /// <summary>Whether the flags of an AddService line say that this is the device's own driver, and no filter.</summary>
    internal static bool IsOwnDriver(string flags) => NumberOf(flags) is { } number && (number & IsFunctionDriver) != 0;
}
