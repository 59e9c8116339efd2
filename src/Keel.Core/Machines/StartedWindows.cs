using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Store;
using Keel.Core.Volumes;
using Keel.Core.Windows;

namespace Keel.Core.Machines;

/// <summary>The Windows that the started entry names.</summary>
/// <param name="Volume">The volume that it is on.</param>
/// <param name="Files">The files of the volume.</param>
/// <param name="Folder">Such as <c>\Windows</c>.</param>
internal sealed record StartedWindows(DiskVolume Volume, IVolume Files, string Folder)
{
    /// <summary>The path of its loader; null where it starts through a loader that lies elsewhere, as NT 5 does.</summary>
    public string? LoaderFile { get; private init; }

    /// <summary>The name of its kernel.</summary>
    public string KernelFile { get; private init; } = "ntoskrnl.exe";

    /// <summary>The name of its hardware layer.</summary>
    public string HardwareLayerFile { get; private init; } = "hal.dll";

    /// <summary>Whether it is one of NT 5.</summary>
    public bool IsNt5 { get; private init; }

    /// <summary>The same as an installation that was found; null where it was not.</summary>
    public WindowsInstallation? InstallationIn(Machine machine) => machine.Installations.FirstOrDefault(found =>
        found.Volume == Volume && found.Folder.Equals(Folder, StringComparison.OrdinalIgnoreCase));

    public string System32 => $@"{Folder}\System32";

    public string SoftwareHivePath => $@"{System32}\config\SOFTWARE";

    public string SystemHivePath => $@"{System32}\config\SYSTEM";

    /// <summary>The Windows, or why it can't be reached.</summary>
    public static (StartedWindows? Windows, Remark Why) Of(Machine machine)
    {
        try
        {
            return Look(machine);
        }
        catch (KeelException e)
        {
            return (null, e.AsRemark());
        }
    }

    private static (StartedWindows? Windows, Remark Why) Look(Machine machine)
    {
        if (machine.Nt5Evidence is not null) return LookNt5(machine);
        if (machine.Store is not { Condition: StoreCondition.Loaded, Store: { } store }
            || store.Started is not { } entry)
        {
            return (null, Remark.Of("windows.no-entry"));
        }

        if (machine.VolumeOf(entry.Device(Element.WindowsVolume)) is not { } volume)
            return (null, Remark.Of("entry.volume-not-here"));
        if (volume.Kind == FileSystemKind.BitLocker) return (null, Remark.Of("volume.encrypted", Fact.Volume.Is(volume.Ref)));
        if (volume.Files is not { } files) return (null, Remark.Of("volume.files-unreadable", Fact.Volume.Is(volume.Ref)));
        var folder = entry.Text(Element.WindowsFolder)?.TrimEnd('\\');
        if (string.IsNullOrEmpty(folder)) return (null, Remark.Of("entry.no-folder"));
        var windows = new StartedWindows(volume, files, folder) { LoaderFile = entry.Text(Element.ProgramFile) };
        return IfThere(windows with
        {
            KernelFile = entry.Text(Element.KernelFile) ?? windows.KernelFile,
            HardwareLayerFile = entry.Text(Element.HardwareLayerFile) ?? windows.HardwareLayerFile
        });
    }

    private static (StartedWindows? Windows, Remark Why) LookNt5(Machine machine)
    {
        var start = machine.Nt5Start;
        if (start.Path is not { } path) return (null, Remark.Of("windows.no-entry"));
        if (start.Volume is not { } volume) return (null, Remark.Of("entry.volume-not-here"));
        if (volume.Files is not { } files) return (null, Remark.Of("volume.files-unreadable", Fact.Volume.Is(volume.Ref)));
        var windows = new StartedWindows(volume, files, path.Folder) { IsNt5 = true };
        return IfThere(windows with
        {
            KernelFile = start.Line?.ValueOf("KERNEL") ?? windows.KernelFile,
            HardwareLayerFile = start.Line?.ValueOf("HAL") ?? windows.HardwareLayerFile
        });
    }

    private static (StartedWindows? Windows, Remark Why) IfThere(StartedWindows windows) =>
        windows.Files.FolderExists(windows.System32)
            ? (windows, Remark.Of("windows.reached"))
            : (null, Remark.Of("file.missing", Fact.Path.Is(windows.System32), Fact.Volume.Is(windows.Volume.Ref)));
}
