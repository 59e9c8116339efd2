using Keel.Core.Facts;
using Keel.Core.Hives;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Volumes;
using Keel.Core.Windows;
using Keel.Core.Windows.Drivers;

namespace Keel.Core.Mending;

/// <summary>
/// Brings the driver of a disk controller into a Windows that is not running: file, catalog and service, started with the loader.
/// Up to build 7601 the devices are matched by a list of the SYSTEM hive too; newer ones have a database of their own for that,
/// which stays as it is, so that only the next start shows whether Windows takes the driver.
/// </summary>
internal static class DriverInstall
{
    private const uint KernelDriver = 1;
    private const string DeviceList = @"Control\CriticalDeviceDatabase";

    /// <summary>Whether only the next start shows if Windows takes the driver for its devices.</summary>
    public static bool IsGuess(StartedWindows windows, DriverSource source, int? build) =>
        DeviceDatabase.IsOf(build) && DeviceDatabase.Has(windows.Files, windows.Folder, source.Package.Service.FileName) != true;

    /// <summary>Why a driver would be of no use to a Windows; null where it may be.</summary>
    public static Remark? WhyNot(StartedWindows windows, DriverSource source, bool needsSignature)
    {
        if (source.WhyNot is { } why) return why;
        if (needsSignature && source.Signer is null)
            return Remark.Of("driver.unsigned", Fact.Path.Is(source.Package.Service.FileName));
        var missing = Imports(source)
            .Where(name => !((string[])[$@"{windows.System32}\drivers\{name}", $@"{windows.System32}\{name}"])
                .Any(windows.Files.FileExists))
            .ToList();
        return missing.Count > 0
            ? Remark.Of("driver.imports-missing", Fact.Path.Is(source.Package.Service.FileName), Fact.Names.Is(missing))
            : RegistryChanges.WhyNot(windows.Files, windows.SystemHivePath) is { } hive
                ? Remark.Of("driver.hive-not-changed", Fact.Reason.Is(hive))
                : HiveCopies.TryRead(windows.Files, windows.SystemHivePath) is null
                    ? Remark.Of("driver.hive-damaged", Fact.Path.Is(windows.SystemHivePath))
                    : null;
    }

    /// <summary>Writes them; a line for each thing that is.</summary>
    public static IReadOnlyList<Remark> Apply(StartedWindows windows, SystemHive hive, DriverSource source, int? build)
    {
        var lines = new List<Remark>();
        var isGuess = IsGuess(windows, source, build);
        var service = source.Package.Service;
        var target = $@"{windows.System32}\drivers\{service.FileName}";
        windows.Volume.Edit(files =>
        {
            lines.Add(Remark.Of(
                "line.file",
                Fact.Path.Is(target),
                Fact.Volume.Is(windows.Volume.Ref),
                Fact.Change.Is(BootFileRenewal.WriteOne(files, target, source.File))));
            if (source.Catalog is { } catalog)
            {
                var place = $@"{windows.Folder}\{CatalogSearch.Folder}\{source.Package.Catalog}";
                lines.Add(Remark.Of(
                    "line.file",
                    Fact.Path.Is(place),
                    Fact.Volume.Is(windows.Volume.Ref),
                    Fact.Change.Is(BootFileRenewal.WriteOne(files, place, catalog))));
            }

            var before = files.ReadFile(windows.SystemHivePath);
            files.WriteFile(windows.SystemHivePath, WithService(before, hive.ControlSet!, source.Package, build));
        });
        lines.Add(Remark.Of("line.driver-service", Fact.ControlSet.Is(hive.ControlSet!), Fact.Driver.Is(service.Name)));
        lines.Add(Remark.Of(
            "line.driver-from",
            Fact.Source.Is($"{source.Package.InfName}, {source.Tree.Name}"),
            Fact.Version.Is(source.Version?.ToString() ?? source.Package.Version ?? "unknown"),
            Fact.Signer.Is(source.Signer ?? "nobody")));
        lines.Add(!DeviceDatabase.IsOf(build)
            ? Remark.Of("line.driver-devices", Fact.DeviceCount.Is(source.Package.Devices.Count))
            : isGuess
                ? Remark.Of("line.driver-not-proven", Fact.Build.Is(build ?? 0))
                : Remark.Of("line.driver-in-database"));
        return lines;
    }

    private static IEnumerable<string> Imports(DriverSource source) =>
        ProgramImports.Of(new Blocks.MemoryBlocks(source.File)).Where(ProgramImports.IsFile);

    private static byte[] WithService(byte[] bytes, string controlSet, DriverPackage package, int? build)
    {
        var hive = Hive.Open(bytes);
        var root = hive.ReadTree();
        var set = root.Child(controlSet)!;
        var service = set.ChildOrNew("Services").ChildOrNew(package.Service.Name)
            .Set(HiveValue.OfNumber("Type", KernelDriver))
            .Set(HiveValue.OfNumber("Start", (uint)ServiceStart.Boot))
            .Set(HiveValue.OfNumber("ErrorControl", package.Service.ErrorControl))
            .Set(HiveValue.OfText("ImagePath", $@"System32\drivers\{package.Service.FileName}"));
        if (package.Service.Group.Length > 0) service.Set(HiveValue.OfText("Group", package.Service.Group));
        foreach (var (key, value) in package.Service.Values) Below(service, key).Set(value);
        service.Child("StartOverride")?.Set(HiveValue.OfNumber("0", (uint)ServiceStart.Boot));
        if (!DeviceDatabase.IsOf(build)) AddDevices(set, package);
        return HiveWriter.Write(root, Math.Clamp(hive.Header.Minor, 3, 6), hive.Header.PrimarySequence + 1);
    }

    private static void AddDevices(HiveNode set, DriverPackage package)
    {
        var list = Below(set, DeviceList);
        foreach (var device in package.Devices.Where(id => id.Contains('\\')))
        {
            list.ChildOrNew(device.Replace('\\', '#').ToLowerInvariant())
                .Set(HiveValue.OfText("Service", package.Service.Name))
                .Set(HiveValue.OfText("ClassGUID", package.ClassId));
        }
    }

    private static HiveNode Below(HiveNode node, string path) =>
        path.Split('\\', StringSplitOptions.RemoveEmptyEntries).Aggregate(node, (key, name) => key.ChildOrNew(name));
}
