using Keel.Core.Disks;

namespace Keel.Core.Logbook;

/// <summary>The logbook's files on this computer, private to their owner: they can hold hives.</summary>
internal sealed class LinuxStorage : IStableStorage
{
    public bool CreateFolder(string path) => LinuxNative.CreatePrivateFolder(path);

    public IStableFile CreateFile(string path) => new LinuxStableFile(path);

    public void FlushFolder(string path) => LinuxNative.FlushFolder(path);

    public void Rename(string from, string to) => LinuxNative.Rename(from, to);

    public bool GiveUp(string path)
    {
        try
        {
            if (!File.Exists(path)) return false;
            File.Delete(path);
            return true;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return false;
        }
    }

    /// <summary>The state goes first: without it the rest of a record counts for nothing.</summary>
    public void DeleteFolder(string path)
    {
        foreach (var file in Directory.GetFiles(path).OrderDescending(StringComparer.Ordinal)) File.Delete(file);
        Directory.Delete(path);
    }
}
