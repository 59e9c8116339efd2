using Keel.Core.Disks;
using Keel.Core.Errors;

namespace Keel.Core.Firmware;

/// <summary>Writes single variable files, each in one call, as efivarfs wants it.</summary>
internal static class VariableFile
{
    private const int LimitBytes = 1024 * 1024;

    /// <summary>What a variable's file holds; null where there is none.</summary>
    public static byte[]? Read(string folder, string name)
    {
        var path = Path.Combine(folder, name);
        try
        {
            return HostFile.ReadIfThere(path, LimitBytes, followLink: false);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw Failed(path, "read", e);
        }
    }

    /// <summary>Whether a variable's file carries the mark that keeps it from being changed.</summary>
    public static bool IsProtected(string folder, string name) => LinuxNative.IsImmutable(Path.Combine(folder, name)) == true;

    /// <summary>Sets that mark; where the file system has none, nothing happens.</summary>
    public static void Protect(string folder, string name) =>
        LinuxNative.SetImmutable(Path.Combine(folder, name), immutable: true);

    /// <summary>
    /// Makes a variable's file hold this; null takes it away. The mark that keeps it from being changed is lifted first, and set
    /// again whatever happens.
    /// </summary>
    public static void Write(string folder, string name, byte[]? bytes)
    {
        var path = Path.Combine(folder, name);
        var wasProtected = IsProtected(folder, name);
        try
        {
            if (wasProtected && !LinuxNative.SetImmutable(path, immutable: false))
                throw new IOException("the mark that protects it can't be lifted");
            if (bytes is null)
                File.Delete(path);
            else
                Replace(path, bytes);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw Failed(path, "written", e);
        }
        finally
        {
            if (wasProtected && File.Exists(path)) Protect(folder, name);
        }
    }

    private static void Replace(string path, byte[] bytes)
    {
        using var file = new FileStream(LinuxNative.OpenEmptied(path), FileAccess.Write, bufferSize: 0);
        file.Write(bytes);
        LinuxNative.FlushWhereItCan(file.SafeFileHandle, path);
    }

    private static UnreadableException Failed(string path, string verb, Exception e) => new(
        $"The firmware variable {Path.GetFileName(path)} can't be {verb}.",
        $"The system says: {e.Message}",
        "Run keel as root; where the firmware is full, drop entries that are not needed.",
        e);
}
