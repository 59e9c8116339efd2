namespace Keel.Core.Blocks.VirtualDisks;

/// <summary>Looks names up in a folder as Windows would.</summary>
internal static class FileNames
{
    /// <summary>A file of that name, whatever its letters' case; null for none, and for what is no plain name.</summary>
    public static string? InFolder(string folder, string name)
    {
        if (name.Length == 0 || name is "." or ".." || name.Contains('/', StringComparison.Ordinal)) return null;
        var exact = Path.Combine(folder, name);
        if (File.Exists(exact)) return exact;
        try
        {
            return Directory.EnumerateFiles(folder)
                .FirstOrDefault(path => Path.GetFileName(path).Equals(name, StringComparison.OrdinalIgnoreCase));
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }
}
