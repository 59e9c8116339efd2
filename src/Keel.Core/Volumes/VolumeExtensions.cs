using Keel.Core.Blocks;
using Keel.Core.Errors;

namespace Keel.Core.Volumes;

/// <summary>Small helpers over volumes.</summary>
public static class VolumeExtensions
{
    /// <summary>Whether there is such a file.</summary>
    public static bool FileExists(this IVolume volume, string path) => volume.Find(path) is { IsFolder: false };

    /// <summary>Whether there is such a folder.</summary>
    public static bool FolderExists(this IVolume volume, string path) => volume.Find(path) is { IsFolder: true };

    /// <summary>A whole file in memory.</summary>
    /// <exception cref="UnreadableException">Missing, unreadable, or longer than the limit.</exception>
    public static byte[] ReadFile(this IVolume volume, string path, int limitBytes = 64 * 1024 * 1024)
    {
        var file = volume.OpenFile(path);
        if (file.LengthBytes > limitBytes)
        {
            throw new UnreadableException(
                $"{path} is too large to be read.",
                $"It has {file.LengthBytes} bytes, and should have at most {limitBytes}.",
                "It is not the file it should be: set it aside.");
        }

        return file.ReadBytes(0, (int)file.LengthBytes);
    }

    /// <summary>The folder part of a path, without a backslash at its end; empty for the root.</summary>
    public static string FolderOf(string path) => path[..Math.Max(0, path.LastIndexOf('\\'))];

    /// <summary>The last name of a path.</summary>
    public static string NameOf(string path) => path[(path.LastIndexOf('\\') + 1)..];
}
