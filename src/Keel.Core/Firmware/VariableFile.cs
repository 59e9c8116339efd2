using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Firmware;

/// <summary>Writes single variable files, each in one call, as efivarfs wants it.</summary>
internal static class VariableFile
{
    /// <summary>What a variable's file holds; null where there is none.</summary>
    public static byte[]? Read(string folder, string name)
    {
        var path = Path.Combine(folder, name);
        try
        {
            return File.Exists(path) ? File.ReadAllBytes(path) : null;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw Failed(path, "read", e);
        }
    }

    /// <summary>Makes a variable's file hold this; null takes it away. The mark that keeps it from being changed is lifted first, and set again.</summary>
    public static void Write(string folder, string name, byte[]? bytes)
    {
        var path = Path.Combine(folder, name);
        try
        {
            var wasLocked = File.Exists(path) && LinuxNative.SetImmutable(path, immutable: false);
            if (bytes is null)
            {
                File.Delete(path);
                return;
            }

            using (var file = new FileStream(path, FileMode.Create, FileAccess.Write, FileShare.Read, bufferSize: 0))
            {
                file.Write(bytes);
                file.Flush(flushToDisk: true);
            }

            if (wasLocked) LinuxNative.SetImmutable(path, immutable: true);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw Failed(path, "written", e);
        }
    }

    private static UnreadableException Failed(string path, string verb, Exception e) => new(
        $"The firmware variable {Path.GetFileName(path)} can't be {verb}.", $"The system says: {e.Message}", "Run keel as root; where the firmware is full, drop entries that are not needed.", e);
}
