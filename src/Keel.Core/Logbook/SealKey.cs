using Keel.Core.Blocks;
using Keel.Core.Disks;

namespace Keel.Core.Logbook;

/// <summary>
/// What only this computer, or this stick, knows: records that carry a sum made with it were written here. A logbook can come
/// from anywhere, and its records say where bytes are to be written.
/// </summary>
public sealed class SealKey
{
    private const int KeyBytes = 32;
    private const string FileName = "seal-key";
    private readonly byte[] key;

    internal SealKey(byte[] key) => this.key = key;

    /// <summary>The key that a folder keeps, made where there is none; null where the folder can't keep one.</summary>
    /// <param name="folder">The usual folder of logbooks, whichever one is in use.</param>
    /// <param name="make">Whether one is made where there is none.</param>
    public static SealKey? Of(string folder, bool make)
    {
        var path = Path.Combine(folder, FileName);
        try
        {
            if (HostFile.ReadIfThere(path, KeyBytes, followLink: false) is { Length: KeyBytes } known) return new SealKey(known);
            if (!make) return null;
            new LogbookFolders(new LinuxStorage()).Create(folder);
            var fresh = Fresh();
            HostFile.Write(path, fresh);
            return new SealKey(fresh);
        }
        catch (Exception e) when (e is IOException or UnauthorizedAccessException)
        {
            return null;
        }
    }

    /// <summary>The sum of a record.</summary>
    /// <param name="sums">The SHA-256 of each of its files.</param>
    internal byte[] Seal(params ReadOnlySpan<byte[]> sums)
    {
        var sealedBytes = new List<byte>("keel record seal 1\n"u8.ToArray());
        foreach (var sum in sums) sealedBytes.AddRange(sum);
        return Sha256Sum.WithKey(key, sealedBytes.ToArray());
    }

    /// <summary>A key that nobody can foresee: new identifiers are made of the kernel's random numbers.</summary>
    private static byte[] Fresh() => [.. Guid.NewGuid().ToByteArray(), .. Guid.NewGuid().ToByteArray()];
}
