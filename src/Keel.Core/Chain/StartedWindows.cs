using Keel.Core.Chain.Checks;
using Keel.Core.Errors;
using Keel.Core.Facts;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Chain;

/// <summary>The Windows that the started entry names.</summary>
/// <param name="Volume">The volume that it is on.</param>
/// <param name="Files">The files of the volume.</param>
/// <param name="Folder">Such as <c>\Windows</c>.</param>
/// <param name="Entry">The entry that leads to it.</param>
internal sealed record StartedWindows(DiskVolume Volume, IVolume Files, string Folder, BootEntry Entry)
{
    public string System32 => $@"{Folder}\System32";

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
        if (machine.Store is not { Condition: StoreCondition.Loaded, Store: { } store }
            || WindowsEntryCheck.Started(store) is not { } entry)
        {
            return (null, Remark.Of("windows.no-entry"));
        }

        if (machine.VolumeOf(entry.Device(Element.WindowsVolume)) is not { } volume)
            return (null, Remark.Of("entry.volume-not-here"));
        if (volume.Kind == FileSystemKind.BitLocker) return (null, Remark.Of("volume.encrypted", Fact.Volume.Is(volume.Ref)));
        if (volume.Files is not { } files) return (null, Remark.Of("volume.files-unreadable", Fact.Volume.Is(volume.Ref)));
        var folder = entry.Text(Element.WindowsFolder)?.TrimEnd('\\');
        if (string.IsNullOrEmpty(folder)) return (null, Remark.Of("entry.no-folder"));
        var system32 = $@"{folder}\System32";
        return files.FolderExists(system32)
            ? (new StartedWindows(volume, files, folder, entry), Remark.Of("windows.reached"))
            : (null, Remark.Of("file.missing", Fact.Path.Is(system32), Fact.Volume.Is(volume.Ref)));
    }
}
