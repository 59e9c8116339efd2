using Keel.Core.Blocks;
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
            var length = LinuxNative.KindOf(path) == UnixFileKind.Regular
                ? new FileInfo(path).Length
                : throw new UnreadableException(
                    $"{path} can't be read.",
                    "It is not there, or not an ordinary file.",
                    "Check the spelling.");
            return length <= LimitBytes
                ? File.ReadAllBytes(path)
                : throw new UnreadableException(
                    $"{path} is no store.",
                    $"It has {length} bytes, and a store far less.",
                    "Name another file.");
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnreadableException(
                $"{path} can't be read.",
                $"The system says: {e.Message}",
                "Check the path and the permissions.",
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
            string? aside = null;
            if (File.Exists(path))
            {
                aside = Enumerable
                    .Range(1, 1000)
                    .Select(number => $"{path}.aside{number}")
                    .First(candidate => !File.Exists(candidate));
                File.Copy(path, aside);
            }

            using (var file = new FileStream(path + ".new", FileMode.Create))
            {
                file.Write(bytes);
                file.Flush(flushToDisk: true);
            }

            File.Move(path + ".new", path, overwrite: true);
            LinuxNative.FlushFolder(Path.GetDirectoryName(Path.GetFullPath(path))!);
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
}
