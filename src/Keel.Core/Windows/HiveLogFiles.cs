using Keel.Core.Errors;
using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>The logs beside a hive. They only help: one that is empty, too large or no file is passed over.</summary>
internal static class HiveLogFiles
{
    private static readonly string[] Endings = [".LOG1", ".LOG2", ".LOG"];

    /// <summary>The contents of the logs that can be read.</summary>
    /// <param name="files">The files of the volume.</param>
    /// <param name="path">The path of the hive.</param>
    /// <param name="limitBytes">A log that is longer is passed over.</param>
    /// <exception cref="ReadFailedException">The disk does not give a log: then what it holds is not known.</exception>
    public static IEnumerable<byte[]> Read(IVolume files, string path, int limitBytes) => Endings
        .Select(ending => files.Find(path + ending) is { IsFolder: false } file
            && file.SizeBytes > 0
            && file.SizeBytes <= limitBytes
                ? TryRead(files, path + ending, limitBytes)
                : null)
        .OfType<byte[]>();

    private static byte[]? TryRead(IVolume files, string path, int limitBytes)
    {
        try
        {
            return files.ReadFile(path, limitBytes);
        }
        catch (KeelException e) when (e is not ReadFailedException)
        {
            return null;
        }
    }
}
