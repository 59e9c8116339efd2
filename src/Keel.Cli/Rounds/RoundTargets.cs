using Keel.Core.Errors;

namespace Keel.Cli.Rounds;

/// <summary>The disks and images of a round: those that were named, those of a list, and all files of a folder.</summary>
internal static class RoundTargets
{
    /// <summary>Full paths, each once, in the order in which they were named.</summary>
    /// <param name="named">Disks, images, or folders of images.</param>
    /// <param name="list">A file with a path in each line, "-" for the standard input; null for none.</param>
    /// <exception cref="UnreadableException">The list can't be read.</exception>
    public static IEnumerable<string> Of(IReadOnlyList<string> named, string? list)
    {
        var seen = new HashSet<string>(StringComparer.Ordinal);
        foreach (var path in named.Concat(list is null ? [] : LinesOf(list)).SelectMany(FilesOf))
        {
            if (seen.Add(path)) yield return path;
        }
    }

    private static IEnumerable<string> FilesOf(string path)
    {
        if (path.Contains("://", StringComparison.Ordinal)) return [path];
        var full = Path.GetFullPath(path);
        return Directory.Exists(full) ? Directory.EnumerateFiles(full).Order(StringComparer.Ordinal) : [full];
    }

    private static IEnumerable<string> LinesOf(string list)
    {
        using var reader = Open(list);
        while (reader.ReadLine() is { } line)
        {
            if (!string.IsNullOrWhiteSpace(line)) yield return line;
        }
    }

    private static TextReader Open(string list)
    {
        try
        {
            return list == "-" ? Console.In : new StreamReader(list);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            throw new UnreadableException(
                $"The list {list} can't be read.",
                $"The system says: {e.Message}",
                "Name a file that has a path in each line.",
                e);
        }
    }
}
