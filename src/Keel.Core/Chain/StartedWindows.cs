using Keel.Core.Chain.Checks;
using Keel.Core.Errors;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Chain;

/// <summary>The Windows that the started entry names.</summary>
/// <param name="Folder">Such as <c>\Windows</c>.</param>
internal sealed record StartedWindows(DiskVolume Volume, IVolume Files, string Folder, BootEntry Entry)
{
    public string System32 => $@"{Folder}\System32";

    public string SystemHivePath => $@"{System32}\config\SYSTEM";

    /// <summary>The Windows, or why it can't be reached.</summary>
    public static (StartedWindows? Windows, string Why) Of(Machine machine)
    {
        try
        {
            return Look(machine);
        }
        catch (KeelException e)
        {
            return (null, $"{e.What} {e.Why}".TrimEnd());
        }
    }

    private static (StartedWindows? Windows, string Why) Look(Machine machine)
    {
        if (machine.Store is not { Condition: StoreCondition.Loaded, Store: { } store } || WindowsEntryCheck.Started(store) is not { } entry) return (null, "no entry says which Windows is started");
        if (machine.VolumeOf(entry.Device(Element.WindowsVolume)) is not { } volume) return (null, "the volume that the entry names is not here");
        if (volume.Kind == FileSystemKind.BitLocker) return (null, $"{volume} is encrypted");
        if (volume.Files is not { } files) return (null, $"the files of {volume} can't be read");
        var folder = entry.Text(Element.WindowsFolder)?.TrimEnd('\\');
        return string.IsNullOrEmpty(folder) || !files.FolderExists($@"{folder}\System32")
            ? (null, $"{(string.IsNullOrEmpty(folder) ? "the entry names no folder" : $"{folder}\\System32 is not on {volume}")}")
            : (new StartedWindows(volume, files, folder, entry), "");
    }
}
