using System.Text;
using Keel.Core.Disks;
using Keel.Core.Errors;

namespace Keel.Cli.Rounds;

/// <summary>The disks and images of a round: those that were named, those of a list, and all files of a folder.</summary>
internal static class RoundTargets
{
    private const char Remark = '#';
    private const int LineEnd = '\n', LongestLine = 4096;

    /// <summary>Full paths, each disk once, whatever it is called, in the order in which they were named.</summary>
    /// <param name="named">Disks, images, or folders of images.</param>
    /// <param name="list">
    /// A file with a path in each line, "-" for the standard input; null for none. Blanks around a path and lines that begin with
    /// # do not count.
    /// </param>
    /// <exception cref="UnreadableException">The list or a folder can't be read.</exception>
    public static IEnumerable<string> Of(IReadOnlyList<string> named, string? list)
    {
        var seen = new HashSet<string>(StringComparer.Ordinal);
        foreach (var path in named.Concat(list is null ? [] : LinesOf(list)).SelectMany(FilesOf))
        {
            if (seen.Add(DiskPath.KeyOf(path))) yield return path;
        }
    }

    private static IEnumerable<string> FilesOf(string path)
    {
        if (path.Contains("://", StringComparison.Ordinal)) return [path];
        var full = Path.GetFullPath(path);
        if (!Directory.Exists(full)) return [full];
        try
        {
            return [.. Directory.EnumerateFiles(full).Order(StringComparer.Ordinal)];
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnreadableException(
                $"The folder {path} can't be listed.",
                $"The system says: {e.Message}",
                "Run it as one who may, or name the images.",
                e);
        }
    }

    private static IEnumerable<string> LinesOf(string list)
    {
        using var reader = Open(list);
        for (var number = 1; ReadLine(reader, list, number) is { } line; number++)
        {
            if (string.IsNullOrWhiteSpace(line) || line.TrimStart().StartsWith(Remark)) continue;
            yield return Path.Exists(line) ? line : line.Trim();
        }
    }

    /// <summary>A line that may be of anything, such as of an image that was named as the list: it ends, or is refused.</summary>
    private static string? ReadLine(TextReader reader, string list, int number)
    {
        var line = new StringBuilder();
        for (var at = reader.Read(); at != LineEnd; at = reader.Read())
        {
            if (at < 0) return line.Length > 0 ? line.ToString() : null;
            if (at == 0 || line.Length == LongestLine)
            {
                throw new UnreadableException(
                    $"The list {list} can't be read.",
                    $"Its line {number} is no path.",
                    "Name a file that has a path in each line.");
            }

            line.Append((char)at);
        }

        return line.ToString().TrimEnd('\r');
    }

    private static TextReader Open(string list)
    {
        try
        {
            return list == "-" ? Console.In : new StreamReader(new FileStream(HostFile.Open(list), FileAccess.Read));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException or ArgumentException)
        {
            throw new UnreadableException(
                $"The list {list} can't be read.",
                $"The system says: {e.Message}.",
                "Name a file that has a path in each line; for one that a program writes: --list - and a pipe.",
                e);
        }
    }
}
