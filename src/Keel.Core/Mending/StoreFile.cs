using Keel.Core.Disks;
using Keel.Core.Errors;
using Keel.Core.Hives;
using Keel.Core.Store;

namespace Keel.Core.Mending;

/// <summary>A store in a file by itself.</summary>
public static class StoreFile
{
    private const int LimitBytes = 32 * 1024 * 1024;

    /// <exception cref="UnreadableException">It isn't there, or is no store.</exception>
    public static BootStore Read(string path) => Parse(path, ReadBytes(path));

    /// <summary>The store that a file's bytes are.</summary>
    /// <exception cref="UnreadableException">They are none.</exception>
    public static BootStore Parse(string path, byte[] bytes)
    {
        if (bytes.AsSpan().StartsWith(HiveHeader.Mark)) return BootStore.Read(bytes);
        throw new UnreadableException(
            $"{path} is no store.",
            "It does not begin with the mark of a hive.",
            "Name a file named BCD, or one that 'keel store save' made.");
    }

    /// <summary>Reads a file that is no larger than a store may be.</summary>
    public static byte[] ReadBytes(string path)
    {
        try
        {
            return HostFile.Read(path, LimitBytes);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnreadableException(
                $"{path} can't be read.",
                $"The system says: {e.Message}.",
                "Name a file named BCD, or one that 'keel store save' made.",
                e);
        }
    }

    /// <summary>
    /// Writes a store in one step; what was there is kept beside it. Gives that name, or null where nothing was there.
    /// </summary>
    public static string? Write(string path, byte[] bytes)
    {
        try
        {
            var aside = SetAside(path);
            HostFile.Write(path, bytes);
            return aside;
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnreadableException(
                $"{path} can't be written.",
                $"The system says: {e.Message}",
                "Name a file in a folder that can be written.",
                e);
        }
    }

    /// <summary>Copies what is there to a new file beside it; gives its name, or null where nothing is there.</summary>
    private static string? SetAside(string path)
    {
        const int mostTries = 1000;
        if (HostFile.ReadIfThere(path, LimitBytes) is not { } old) return null;
        for (var number = 1; ; number++)
        {
            var aside = $"{path}.aside{number}";
            try
            {
                using var file = HostFile.CreateNew(aside);
                file.Write(old);
                return aside;
            }
            catch (IOException) when (number < mostTries && Path.Exists(aside))
            {
                // another one is there
            }
        }
    }
}
