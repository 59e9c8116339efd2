using System.Buffers;
using System.Runtime.InteropServices;
using System.Security.Cryptography;

namespace Keel.Core.Volumes.BitLocker;

/// <summary>AES-CBC, each sector by itself; its chain begins with its offset in bytes, encrypted.</summary>
internal sealed class CbcCipher(ReadOnlySpan<byte> key, int sectorBytes) : SectorCipher(sectorBytes)
{
    private readonly Aes aes = WithKey(key);

    /// <inheritdoc/>
    public override void Dispose() => aes.Dispose();

    /// <inheritdoc/>
    protected override void DecryptPiece(Span<byte> sectors, long offsetBytes)
    {
        var rented = ArrayPool<byte>.Shared.Rent(PieceBytes);
        try
        {
            var before = rented.AsSpan(0, sectors.Length);
            sectors.CopyTo(before);
            aes.DecryptEcb(before, sectors, PaddingMode.None);      // in one call; the chaining is undone by hand
            Span<byte> room = stackalloc byte[StartBytes];
            var starts = Starts(aes, sectors.Length / SectorBytes, offsetBytes, SectorBytes, room);
            for (var (at, start) = (0, 0); at < sectors.Length; at += SectorBytes, start += AesBytes)
            {
                Combine(sectors.Slice(at, AesBytes), starts[start..]);
                Combine(sectors[(at + AesBytes)..(at + SectorBytes)], before[at..]);
            }
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(rented);
        }
    }

    /// <inheritdoc/>
    protected override void EncryptPiece(Span<byte> sectors, long offsetBytes)
    {
        Span<byte> room = stackalloc byte[StartBytes];
        var starts = Starts(aes, sectors.Length / SectorBytes, offsetBytes, SectorBytes, room);
        for (var (at, start) = (0, 0); at < sectors.Length; at += SectorBytes, start += AesBytes)
        {
            var sector = sectors.Slice(at, SectorBytes);
            aes.EncryptCbc(sector, starts.Slice(start, AesBytes), sector, PaddingMode.None);
        }
    }

    private static void Combine(Span<byte> bytes, ReadOnlySpan<byte> with)
    {
        var words = MemoryMarshal.Cast<byte, ulong>(bytes);
        var others = MemoryMarshal.Cast<byte, ulong>(with);
        for (var at = 0; at < words.Length; at++) words[at] ^= others[at];
    }
}
