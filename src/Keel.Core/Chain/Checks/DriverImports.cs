using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Chain.Checks;

/// <summary>The libraries that a driver names: without one of them it is not loaded.</summary>
internal static class DriverImports
{
    private const int MostImports = 64;

    /// <summary>The kernel's own, which their link looks at.</summary>
    private static readonly string[] Kernel = ["ntoskrnl.exe", "hal.dll", "ci.dll", "kdcom.dll", "bootvid.dll"];

    /// <summary>What is wrong with them.</summary>
    public static IEnumerable<Finding> Wrong(
        Machine machine,
        StartedWindows windows,
        WindowsService driver,
        ProgramKinds kinds)
    {
        foreach (var name in Of(windows, driver))
        {
            var path = PathOf(windows, name);
            var state = machine.Programs.Look(windows.Volume, windows.Files, path);
            if (kinds.FindingOf(state, FilePlace.Of(windows.Volume, path)) is { } finding)
                yield return finding.With(Fact.NeededBy.Is($"{driver.Name}.sys"));
        }
    }

    /// <summary>What it names, without the kernel's own; nothing where it can't be read.</summary>
    public static IReadOnlyList<string> Of(StartedWindows windows, WindowsService driver)
    {
        try
        {
            return driver.FileIn(windows.Folder) is { } path && windows.Files.FileExists(path)
                ? [.. ProgramImports.Of(windows.Files.OpenFile(path))
                    .Where(name => !Kernel.Contains(name, StringComparer.OrdinalIgnoreCase) && ProgramImports.IsFile(name))
                    .Take(MostImports)]
                : [];
        }
        catch (KeelException)
        {
            return [];          // what can't be read is told of the driver itself
        }
    }

    private static string PathOf(StartedWindows windows, string name)
    {
        var drivers = $@"{windows.System32}\drivers\{name}";
        var system = $@"{windows.System32}\{name}";
        return !windows.Files.FileExists(drivers)
            && (windows.Files.FileExists(system) || !name.EndsWith(".sys", StringComparison.OrdinalIgnoreCase))
            ? system
            : drivers;
    }
}
