using Microsoft.Win32.SafeHandles;

namespace Keel.Core.Disks.Nbd;

/// <summary>
/// All files of what a helper serves for writing, held against other programs as a plain image is: those that are written alone,
/// those that are only read together with others who read.
/// </summary>
internal sealed class ServedFiles : IDisposable
{
    private readonly List<SafeFileHandle> held = [];

    /// <exception cref="Errors.RefusedException">One of them is in use, or held by another program; says by whom.</exception>
    public static ServedFiles Hold(ServedNode node)
    {
        var files = new ServedFiles();
        try
        {
            foreach (var path in node.WrittenFiles) files.Hold(path, alone: true);
            foreach (var path in node.ReadFiles) files.Hold(path, alone: false);
            return files;
        }
        catch
        {
            files.Dispose();
            throw;
        }
    }

    public void Dispose()
    {
        foreach (var file in held)
        {
            LinuxNative.Unlock(file);
            file.Dispose();
        }
    }

    private void Hold(string path, bool alone)
    {
        DiskUse.RefuseIfInUse(path);
        var file = LinuxNative.OpenForReading(path);
        held.Add(file);
        if (!file.IsInvalid && !LinuxNative.HoldSoonBeside(file, alone)) throw DiskUse.HeldByAnother(path);
    }
}
