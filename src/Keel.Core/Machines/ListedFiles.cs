using Keel.Core.Blocks;
using Keel.Core.Programs;
using Keel.Core.Volumes;

namespace Keel.Core.Machines;

/// <summary>
/// Which start files a catalog of their installation lists, asked only where that costs little: a real Windows has thousands of
/// catalogs, and start files that carry no signature of their own are few there.
/// </summary>
internal sealed class ListedFiles
{
    /// <summary>What a diagnosis reads for it at most: more is left to a check of files that is asked for.</summary>
    private const long CatalogsLimitBytes = 4 * 1024 * 1024;

    private readonly Dictionary<FilePlace, FileReading> readings = [];
    private readonly Dictionary<FilePlace, string?> catalogs = [];

    /// <summary>Whether the catalogs of an installation are few enough to be read beside a diagnosis.</summary>
    /// <param name="files">Its volume.</param>
    /// <param name="windows">Its folder.</param>
    public static bool IsCheap(IVolume files, string windows)
    {
        long bytes = 0;
        foreach (var file in files.List($@"{windows}\{CatalogSearch.Folder}").Where(CatalogSearch.IsCatalog))
        {
            bytes += file.SizeBytes;
            if (bytes > CatalogsLimitBytes) return false;
        }

        return bytes > 0;
    }

    /// <summary>Of each path, the catalog that lists it as it stands there; null where none does.</summary>
    public IReadOnlyList<string?> CatalogsOf(DiskVolume volume, IVolume files, string windows, IReadOnlyList<string> paths)
    {
        var places = paths.Select(path => FilePlace.Of(volume, path)).ToList();
        var open = places.Where(place => !catalogs.ContainsKey(place)).Distinct().ToList();
        if (open.Count > 0)
        {
            var wanted = open.ConvertAll(place => ReadingOf(files, place).Digests);
            var found = new CatalogScan(files, windows).Find(wanted, _ => { });
            foreach (var (number, place) in open.Index())
            {
                catalogs[place] = wanted[number]
                    .Select(digest => found.TryGetValue(Convert.ToHexString(digest), out var by) ? by.Path : null)
                    .FirstOrDefault(path => path is not null);
            }
        }

        return places.ConvertAll(place => catalogs[place]);
    }

    /// <summary>Forgets the files of the volumes that a range belongs to, and what their catalogs said.</summary>
    public void Forget(MachineDisk disk, ByteRange range)
    {
        if (catalogs.Count == 0) return;
        foreach (var place in catalogs.Keys
            .Where(place => place.DiskPath == disk.Path && disk.IsPartOf(place.Volume, range))
            .ToList())
        {
            catalogs.Remove(place);
            readings.Remove(place);
        }
    }

    private FileReading ReadingOf(IVolume files, FilePlace place)
    {
        if (readings.TryGetValue(place, out var known)) return known;
        return readings[place] = FileReading.Of(files, place.Path, files.Find(place.Path)!);
    }
}
