using System.Buffers;
using System.Runtime.InteropServices;
using System.Runtime.Intrinsics;
using System.Security.Cryptography;

namespace Keel.Core.Volumes.BitLocker;

/// <summary>
/// AES-XTS (IEEE 1619), the tweak being the number of the sector. Built from ECB in large pieces: one call for many sectors.
/// </summary>
internal sealed class XtsCipher(ReadOnlySpan<byte> key, ReadOnlySpan<byte> tweakKey, int sectorBytes) : SectorCipher(sectorBytes)
{
    /// <summary>What is carried over the end of a block when it is doubled (x^128 = x^7 + x^2 + x + 1).</summary>
    private const ulong Polynomial = 0x87;

    private readonly Aes data = WithKey(key);
    private readonly Aes tweak = WithKey(tweakKey);

    /// <inheritdoc/>
    public override void Dispose()
    {
        data.Dispose();
        tweak.Dispose();
    }

    /// <inheritdoc/>
    protected override void DecryptPiece(Span<byte> sectors, long offsetBytes) => Turn(sectors, offsetBytes, encrypt: false);

    /// <inheritdoc/>
    protected override void EncryptPiece(Span<byte> sectors, long offsetBytes) => Turn(sectors, offsetBytes, encrypt: true);

    private void Turn(Span<byte> sectors, long offsetBytes, bool encrypt)
    {
        var rented = ArrayPool<byte>.Shared.Rent(PieceBytes);
        try
        {
            var masks = rented.AsSpan(0, sectors.Length);
            FillMasks(masks, offsetBytes / SectorBytes);
            Combine(sectors, masks);
            if (encrypt) data.EncryptEcb(sectors, sectors, PaddingMode.None);
            else data.DecryptEcb(sectors, sectors, PaddingMode.None);
            Combine(sectors, masks);
        }
        finally
        {
            ArrayPool<byte>.Shared.Return(rented);
        }
    }

    /// <summary>One mask a block: the first of a sector is its number encrypted, each next one the double of the last.</summary>
    private void FillMasks(Span<byte> masks, long sector)
    {
        Span<byte> room = stackalloc byte[StartBytes];
        var starts = MemoryMarshal.Cast<byte, ulong>(Starts(tweak, masks.Length / SectorBytes, sector, 1, room));
        var words = MemoryMarshal.Cast<byte, ulong>(masks);
        var perSector = SectorBytes / sizeof(ulong);
        for (var first = 0; first < words.Length; first += perSector)
        {
            var start = first / perSector * 2;
            var (low, high) = (starts[start], starts[start + 1]);
            var own = words.Slice(first, perSector);
            for (var at = 0; at < own.Length; at += 2)
            {
                own[at] = low;
                own[at + 1] = high;
                var carry = (ulong)((long)high >> 63) & Polynomial;
                high = (high << 1) | (low >> 63);
                low = (low << 1) ^ carry;
            }
        }
    }

    private static void Combine(Span<byte> bytes, ReadOnlySpan<byte> masks)
    {
        var words = MemoryMarshal.Cast<byte, Vector128<byte>>(bytes);
        var others = MemoryMarshal.Cast<byte, Vector128<byte>>(masks);
        for (var at = 0; at < words.Length; at++) words[at] ^= others[at];
    }
}
