using System.Security.Cryptography;
using Keel.Core.Blocks;
using Keel.Core.Errors;
using Keel.Core.Volumes;

namespace Keel.Core.Programs;

/// <summary>
/// Looks for the digests of files in the catalogs of an installation. There are thousands: a catalog is understood, and its
/// signature checked, only where the bytes of a digest stand in it.
/// </summary>
public static class CatalogSearch
{
    internal const string Folder = @"System32\CatRoot\{F750E6C3-38EE-11D1-85E5-00C04FC295EE}";
    internal const int CatalogsLimit = 30_000, CatalogLimitBytes = 16 * 1024 * 1024;

    /// <summary>The digests by which a file would be listed: as a whole, and of a program as Authenticode takes it.</summary>
    /// <exception cref="UnreadableException">It can't be read.</exception>
    public static IReadOnlyList<byte[]> DigestsOf(byte[] file)
    {
        var blocks = new MemoryBlocks(file);
        byte[]?[] digests =
        [
            SHA256.HashData(file),
            Sha1(file),
            ProgramContent.DigestOf(blocks, HashAlgorithmName.SHA256),
            ProgramContent.DigestOf(blocks, HashAlgorithmName.SHA1)
        ];
        return [.. digests.OfType<byte[]>()];
    }

    /// <summary>Which of several files a catalog of an installation lists: the first such catalog's signer, or null.</summary>
    /// <param name="files">The volume of the installation.</param>
    /// <param name="windows">Its folder, as in <c>\Windows</c>.</param>
    /// <param name="wanted">Of each file, the digests by which it may be listed.</param>
    public static IReadOnlyList<string?> SignersOf(
        IVolume files,
        string windows,
        IReadOnlyList<IReadOnlyList<byte[]>> wanted)
    {
        var signers = new string?[wanted.Count];
        foreach (var file in files.List($@"{windows}\{Folder}").Where(IsCatalog).Take(CatalogsLimit))
        {
            if (!signers.Contains(null)) break;
            if (TryRead(files, $@"{windows}\{Folder}\{file.Name}") is not { } bytes) continue;
            if (!wanted.Where((_, number) => signers[number] is null).Any(digests => MayList(bytes, digests))) continue;
            if (Catalog.TryRead(bytes) is not { } catalog) continue;
            for (var number = 0; number < wanted.Count; number++)
            {
                if (wanted[number].Any(digest => catalog.Lists(digest))) signers[number] ??= catalog.Signer;
            }
        }

        return signers;
    }

    /// <summary>
    /// Whether a catalog is the one that came along with a driver: Windows itself asks only those of its own folder.
    /// </summary>
    internal static bool IsOfPackage(string path) =>
        path.Contains(CatalogScan.DriverPackages, StringComparison.OrdinalIgnoreCase);

    internal static bool IsCatalog(VolumeFile file) =>
        !file.IsFolder
            && file.SizeBytes is > 0 and <= CatalogLimitBytes
            && file.Name.EndsWith(".cat", StringComparison.OrdinalIgnoreCase);

    private static bool MayList(byte[] catalog, IReadOnlyList<byte[]> digests)
    {
        foreach (var digest in digests)
        {
            if (catalog.AsSpan().IndexOf(digest) >= 0) return true;
        }

        return false;
    }

    private static byte[]? TryRead(IVolume files, string path)
    {
        try
        {
            return files.ReadFile(path, CatalogLimitBytes);
        }
        catch (KeelException)
        {
            return null;
        }
    }

    /// <summary>Old catalogs list files by this digest; what it proves is that a file is not damaged.</summary>
    internal static byte[] Sha1(byte[] file)
    {
        using var hash = IncrementalHash.CreateHash(HashAlgorithmName.SHA1);
        hash.AppendData(file);
        return hash.GetHashAndReset();
    }
}
