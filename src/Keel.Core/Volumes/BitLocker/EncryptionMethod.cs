using Keel.Core.Keys;

namespace Keel.Core.Volumes.BitLocker;

/// <summary>The ways in which sectors are encrypted, by their numbers in the metadata.</summary>
internal static class EncryptionMethod
{
    public const ushort Diffused128 = 0x8000, Diffused256 = 0x8001, Cbc128 = 0x8002, Cbc256 = 0x8003, Xts128 = 0x8004,
        Xts256 = 0x8005;

    /// <summary>Key lengths of AES, in bytes.</summary>
    private const int Short = 16, Long = 32;

    /// <summary>With the diffuser there is room for two long keys, whatever their length.</summary>
    private const int SecondAt = 32;

    /// <summary>The name shown; null for a method that is not known here.</summary>
    public static string? NameOf(ushort method) => method switch
    {
        Diffused128 => "AES-CBC 128 with diffuser",
        Diffused256 => "AES-CBC 256 with diffuser",
        Cbc128 => "AES-CBC 128",
        Cbc256 => "AES-CBC 256",
        Xts128 => "XTS-AES 128",
        Xts256 => "XTS-AES 256",
        _ => null
    };

    /// <summary>How long the key of a method is, in bytes; 0 for one that is not known here.</summary>
    public static int KeyBytes(ushort method) => method switch
    {
        Diffused128 or Diffused256 => SecondAt + Long,
        Cbc128 => Short,
        Cbc256 => Long,
        Xts128 => 2 * Short,
        Xts256 => 2 * Long,
        _ => 0
    };

    /// <summary>What encrypts and decrypts sectors; null for a method that is not known here.</summary>
    /// <param name="method">The number of the method.</param>
    /// <param name="key">A key of its length.</param>
    /// <param name="sectorBytes">The volume's own sector size.</param>
    public static SectorCipher? CipherOf(ushort method, ReadOnlySpan<byte> key, int sectorBytes) => method switch
    {
        Diffused128 => new DiffusedCipher(key[..Short], key.Slice(SecondAt, Short), sectorBytes),
        Diffused256 => new DiffusedCipher(key[..Long], key.Slice(SecondAt, Long), sectorBytes),
        Cbc128 => new CbcCipher(key[..Short], sectorBytes),
        Cbc256 => new CbcCipher(key[..Long], sectorBytes),
        Xts128 => new XtsCipher(key[..Short], key.Slice(Short, Short), sectorBytes),
        Xts256 => new XtsCipher(key[..Long], key.Slice(Long, Long), sectorBytes),
        _ => null
    };
}
