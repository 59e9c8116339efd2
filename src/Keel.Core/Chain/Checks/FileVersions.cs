using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Machines;
using Keel.Core.Programs;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Chain.Checks;

/// <summary>Start files of versions that don't belong together.</summary>
internal static class FileVersions
{
    public static readonly FindingKind OtherKernel = new(
        "kernel-other-build",
        Link.KernelFiles,
        Severity.Warning,
        "The kernel is of another version than the Windows around it.",
        StartupScreens.InvalidHash,
        StartupScreens.AutomaticRepair)
    {
        Beyond = "Bring the kernel of the Windows in force back, from a restore point or an installation medium of that build, "
            + "with 'keel files put'; or let Windows' own recovery take the last update back."
    };

    public static readonly FindingKind OldManager = new(
        "manager-older-than-loader",
        Link.LoaderFile,
        Severity.Warning,
        "The boot manager is of an older Windows than the loader that it starts.",
        StartupScreens.InvalidHash,
        StartupScreens.NoSuchFile)
    {
        Beyond = "Recreate the boot files from the Windows that is started: keel files renew DISK"
    };

    public static IReadOnlyList<FindingKind> OfKernel => [OtherKernel];

    public static IReadOnlyList<FindingKind> OfLoader => [OldManager];

    /// <summary>The kernel held against the files beside it, and against the revision in force.</summary>
    public static IEnumerable<Finding> Kernel(Machine machine, StartedWindows windows)
    {
        if (windows.IsNt5) yield break;
        var path = $@"{windows.System32}\{windows.KernelFile}";
        if (VersionOf(windows.Files, path) is not { } kernel) yield break;
        KnownFact[] facts = [Fact.Path.Is(path), Fact.Version.Is($"{kernel}")];
        var beside = ((string[])[windows.HardwareLayerFile, "ci.dll", "ntdll.dll"])
            .Select(name => VersionOf(windows.Files, $@"{windows.System32}\{name}"))
            .OfType<Version>()
            .ToList();
        var place = FilePlace.Of(windows.Volume, path);
        var isOther = beside.Count > 1
            && beside.TrueForAll(other => BuildOf(other) == BuildOf(beside[0]) && BuildOf(other) != BuildOf(kernel));
        if (isOther)
            yield return OtherKernel.At(place, [.. facts, Fact.OtherVersion.Is($"{beside[0]}")]);
        else if (InForce(machine, windows) is { } revision && kernel.Revision > revision)
            yield return OtherKernel.At(place, [.. facts, Fact.NumberBefore.Is(revision)]);
    }

    /// <summary>The boot manager held against the loader; only the one for UEFI says its version openly.</summary>
    public static IEnumerable<Finding> Manager(Machine machine, StartedWindows windows)
    {
        if (machine.Firmware != FirmwareKind.Uefi || windows.LoaderFile is not { } loader) yield break;
        if (SystemFiles.WhyNot(machine, out _, out var system) is not null) yield break;
        var path = machine.BootFiles.ManagerPath;
        if (VersionOf(system, path) is { } manager
            && VersionOf(windows.Files, loader) is { } started
            && (manager.Major, manager.Minor).CompareTo((started.Major, started.Minor)) < 0)
        {
            yield return OldManager.At(Fact.Path.Is(path), Fact.Version.Is($"{manager}"), Fact.OtherVersion.Is($"{started}"));
        }
    }

    /// <summary>The revision in force; null where the hive that says it has later words in its logs.</summary>
    private static int? InForce(Machine machine, StartedWindows windows) =>
        RegistryChanges.WhyNot(windows.Files, windows.SoftwareHivePath) is not null
            ? null
            : windows.InstallationIn(machine)?.Revision;

    private static (int Major, int Minor, int Build) BuildOf(Version version) => (version.Major, version.Minor, version.Build);

    private static Version? VersionOf(IVolume files, string path)
    {
        try
        {
            return files.FileExists(path) ? ProgramFile.VersionOf(files.OpenFile(path)) : null;
        }
        catch (KeelException)
        {
            return null;
        }
    }
}
