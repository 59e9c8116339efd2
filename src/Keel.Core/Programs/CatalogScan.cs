using System.Buffers.Binary;
using Keel.Core.Errors;
using Keel.Core.Volumes;

namespace Keel.Core.Programs;

/// <summary>
/// Looks for many digests in all catalogs of an installation, each read once: digests stand there as octet strings, so a catalog
/// is gone through once for all of them, and understood only where one stands in it.
/// </summary>
/// <param name="files">The volume of the installation.</param>
/// <param name="windows">Its folder, as in <c>\Windows</c>.</param>
internal sealed class CatalogScan(IVolume files, string windows)
{
    internal const string DriverPackages = @"System32\DriverStore\FileRepository";
    private const byte OctetString = 4;
    private const int Sha1Bytes = 20, Sha256Bytes = 32, FoldersLimit = 60_000;

    /// <summary>How many catalogs were read.</summary>
    public int Catalogs { get; private set; }

    /// <summary>Of each digest that is listed, by its hexadecimal digits, where the catalog stands and who signed it.</summary>
    /// <param name="wanted">Of each file, the digests by which it may be listed: one is enough.</param>
    /// <param name="progress">Told how many catalogs were read.</param>
    public Dictionary<string, (FileSigner Signer, string Path)> Find(
        IReadOnlyList<IReadOnlyList<byte[]>> wanted,
        Action<int> progress)
    {
        var found = new Dictionary<string, (FileSigner, string)>(StringComparer.Ordinal);
        var open = new Dictionary<UInt128, List<int>>();
        foreach (var (file, digest) in wanted.Index().SelectMany(one => one.Item.Select(digest => (one.Index, digest))))
        {
            if (!open.TryGetValue(Head(digest), out var files)) open.Add(Head(digest), files = []);
            files.Add(file);
        }

        foreach (var path in Places())
        {
            if (open.Count == 0) break;
            if (TryRead(path) is not { } bytes) continue;
            progress(++Catalogs);
            if (!MayList(bytes, open) || Catalog.TryRead(bytes) is not { } catalog) continue;
            foreach (var digest in catalog.Digests.Where(digest => digest.Length >= Sha1Bytes))
            {
                if (!open.TryGetValue(Head(digest), out var files)) continue;
                found.TryAdd(Convert.ToHexString(digest), (catalog.By, path));
                foreach (var other in files.ToList().SelectMany(file => wanted[file])) open.Remove(Head(other));
            }
        }

        return found;
    }

    /// <summary>The catalogs of Windows, then those that came with driver packages.</summary>
    private IEnumerable<string> Places()
    {
        var root = $@"{windows}\{CatalogSearch.Folder}";
        foreach (var file in files.List(root).Where(CatalogSearch.IsCatalog).Take(CatalogSearch.CatalogsLimit))
            yield return $@"{root}\{file.Name}";
        var packages = $@"{windows}\{DriverPackages}";
        foreach (var package in files.List(packages).Where(file => file.IsFolder).Take(FoldersLimit))
        {
            foreach (var file in files.List($@"{packages}\{package.Name}").Where(CatalogSearch.IsCatalog))
                yield return $@"{packages}\{package.Name}\{file.Name}";
        }
    }

    private static bool MayList(ReadOnlySpan<byte> catalog, Dictionary<UInt128, List<int>> wanted)
    {
        while (catalog.IndexOf(OctetString) is var at and >= 0 && at + 2 + Sha1Bytes <= catalog.Length)
        {
            if (catalog[at + 1] is Sha1Bytes or Sha256Bytes && wanted.ContainsKey(Head(catalog[(at + 2)..]))) return true;
            catalog = catalog[(at + 1)..];
        }

        return false;
    }

    /// <summary>Enough of a digest to tell it from all others.</summary>
    private static UInt128 Head(byte[] digest) => Head(digest.AsSpan());

    private static UInt128 Head(ReadOnlySpan<byte> digest) => BinaryPrimitives.ReadUInt128LittleEndian(digest);

    private byte[]? TryRead(string path)
    {
        try
        {
            return files.ReadFile(path, CatalogSearch.CatalogLimitBytes);
        }
        catch (KeelException)
        {
            return null;
        }
    }
}
