using System.Globalization;
using Keel.Core.Errors;
using Keel.Core.Volumes;

namespace Keel.Core.Windows;

/// <summary>The restore points of NT 5: folders with copies of the hives.</summary>
public static class RestorePoints
{
    private const string Top = @"\System Volume Information", FolderStart = "_restore{", PointStart = "RP";
    private const int MostPoints = 500;

    /// <summary>The paths of copies of a hive on a volume, the youngest first; what can't be read has none.</summary>
    /// <param name="files">The files of the volume.</param>
    /// <param name="name">The name of the hive, as in SYSTEM.</param>
    public static IReadOnlyList<string> Hives(IVolume files, string name)
    {
        try
        {
            return
            [
                .. files.List(Top)
                    .Where(folder => folder.IsFolder && folder.Name.StartsWith(FolderStart, StringComparison.OrdinalIgnoreCase))
                    .SelectMany(folder => Points(files, $@"{Top}\{folder.Name}"))
                    .OrderByDescending(point => point.Number)
                    .Take(MostPoints)
                    .Select(point => $@"{point.Folder}\snapshot\_REGISTRY_MACHINE_{name}")
                    .Where(files.FileExists)
            ];
        }
        catch (KeelException)
        {
            return [];
        }
    }

    private static IEnumerable<(string Folder, int Number)> Points(IVolume files, string folder)
    {
        foreach (var point in files.List(folder).Where(point => point.IsFolder))
        {
            if (point.Name.StartsWith(PointStart, StringComparison.OrdinalIgnoreCase)
                && int.TryParse(
                    point.Name.AsSpan(PointStart.Length),
                    NumberStyles.None,
                    CultureInfo.InvariantCulture,
                    out var number))
            {
                yield return ($@"{folder}\{point.Name}", number);
            }
        }
    }
}
