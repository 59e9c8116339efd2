using System.Buffers.Binary;
using System.Security.Cryptography;

namespace Keel.Core.Volumes.BitLocker;

/// <summary>Encrypts and decrypts whole sectors where they lie, many in one call.</summary>
/// <param name="sectorBytes">The sector size in bytes.</param>
internal abstract class SectorCipher(int sectorBytes) : IDisposable
{
    /// <summary>One block of AES, and what is worked on in one piece, in bytes.</summary>
    protected const int AesBytes = 16, PieceBytes = 64 * 1024;

    private const int LeastSectorBytes = 512;

    /// <summary>The sector size in bytes.</summary>
    public int SectorBytes => sectorBytes;

    /// <summary>Decrypts sectors in place.</summary>
    /// <param name="sectors">Whole sectors.</param>
    /// <param name="offsetBytes">Where they lie on the volume.</param>
    public void Decrypt(Span<byte> sectors, long offsetBytes)
    {
        for (var at = 0; at < sectors.Length; at += PieceBytes)
            DecryptPiece(sectors[at..Math.Min(at + PieceBytes, sectors.Length)], offsetBytes + at);
    }

    /// <summary>Encrypts sectors in place.</summary>
    /// <inheritdoc cref="Decrypt"/>
    public void Encrypt(Span<byte> sectors, long offsetBytes)
    {
        for (var at = 0; at < sectors.Length; at += PieceBytes)
            EncryptPiece(sectors[at..Math.Min(at + PieceBytes, sectors.Length)], offsetBytes + at);
    }

    /// <inheritdoc/>
    public abstract void Dispose();

    /// <summary>Decrypts at most <see cref="PieceBytes"/>.</summary>
    protected abstract void DecryptPiece(Span<byte> sectors, long offsetBytes);

    /// <summary>Encrypts at most <see cref="PieceBytes"/>.</summary>
    protected abstract void EncryptPiece(Span<byte> sectors, long offsetBytes);

    /// <summary>AES with a key.</summary>
    protected static Aes WithKey(ReadOnlySpan<byte> key)
    {
        var aes = Aes.Create();
        aes.SetKey(key);
        return aes;
    }

    /// <summary>A block for each sector, which holds a number of its own, encrypted in one call.</summary>
    /// <param name="aes">Encrypts them.</param>
    /// <param name="count">How many sectors.</param>
    /// <param name="number">The number of the first.</param>
    /// <param name="step">What each is more than the one before.</param>
    /// <param name="blocks">Takes them; has <see cref="StartBytes"/>.</param>
    /// <returns>Those that were filled.</returns>
    protected static Span<byte> Starts(Aes aes, int count, long number, int step, Span<byte> blocks)
    {
        blocks = blocks[..(count * AesBytes)];
        blocks.Clear();
        for (var sector = 0; sector < count; sector++)
            BinaryPrimitives.WriteInt64LittleEndian(blocks[(sector * AesBytes)..], number + ((long)sector * step));
        aes.EncryptEcb(blocks, blocks, PaddingMode.None);
        return blocks;
    }

    /// <summary>Room for a block for each sector of a piece.</summary>
    protected const int StartBytes = PieceBytes / LeastSectorBytes * AesBytes;
}
