using Keel.Core.Errors;

namespace Keel.Core.Volumes;

/// <summary>
/// A path whose backslashes a shell took away: <c>\Boot\BCD</c> arrives as "BootBCD". What it was is looked for on the volume.
/// </summary>
public static class EatenPath
{
    private const int DepthLimit = 12, LookedLimit = 2000;

    /// <summary>The path that is spelled so without its backslashes; null where there is none.</summary>
    public static string? Find(IVolume files, string path)
    {
        var letters = path.Replace("\\", "", StringComparison.Ordinal);
        var looked = 0;
        try
        {
            return letters.Length == 0 ? null : Below(files, "", letters, DepthLimit, ref looked);
        }
        catch (KeelException)
        {
            return null;
        }
    }

    private static string? Below(IVolume files, string folder, string rest, int depth, ref int looked)
    {
        if (depth == 0 || looked++ > LookedLimit) return null;
        var fitting = files.List(folder.Length == 0 ? "\\" : folder)
            .Where(file => rest.StartsWith(file.Name, StringComparison.OrdinalIgnoreCase))
            .OrderByDescending(file => file.Name.Length);
        foreach (var file in fitting)
        {
            var path = $@"{folder}\{file.Name}";
            if (file.Name.Length == rest.Length) return path;
            if (file.IsFolder && Below(files, path, rest[file.Name.Length..], depth - 1, ref looked) is { } found) return found;
        }

        return null;
    }
}
