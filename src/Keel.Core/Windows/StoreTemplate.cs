using Keel.Core.Errors;
using Keel.Core.Store;
using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>
/// The store that Windows' own setup makes a new one from; devices and what is of one machine only are left out in it.
/// </summary>
internal static class StoreTemplate
{
    private const int MostBytes = 4 * 1024 * 1024;

    /// <summary>Its path below the folder of Windows.</summary>
    public static string PathIn(string windowsFolder) => $@"{windowsFolder}\System32\config\BCD-Template";

    /// <summary>The template of an installation; null where it has none, or a damaged one.</summary>
    public static BootStore? Read(WindowsInstallation installation)
    {
        try
        {
            var path = PathIn(installation.Folder);
            if (installation.Volume.Files is not { } files) return null;
            if (files.Find(path) is not { IsFolder: false, SizeBytes: <= MostBytes }) return null;
            var store = BootStore.Read(files.ReadFile(path, MostBytes));
            return store.Damage.Count == 0 && store.Manager is not null ? store : null;
        }
        catch (KeelException)
        {
            return null;
        }
    }
}
