using System.Buffers.Binary;
using System.Numerics;
using System.Runtime.InteropServices;
using System.Security.Cryptography;

namespace Keel.Core.Volumes.BitLocker;

/// <summary>
/// AES-CBC under two diffusers that spread each bit over the whole sector, and a key of the sector's own (Ferguson, "AES-CBC +
/// Elephant diffuser", 2006).
/// </summary>
internal sealed class DiffusedCipher(ReadOnlySpan<byte> key, ReadOnlySpan<byte> sectorKey, int sectorBytes)
    : SectorCipher(sectorBytes)
{
    private const int CyclesOfA = 5, CyclesOfB = 3;

    /// <summary>How many words at an end reach over it.</summary>
    private const int Margin = 8;

    private static readonly int[] TurnsOfA = [9, 0, 13, 0], TurnsOfB = [0, 10, 0, 25];
    private readonly CbcCipher inner = new(key, sectorBytes);
    private readonly Aes ofSector = WithKey(sectorKey);

    /// <inheritdoc/>
    public override void Dispose()
    {
        inner.Dispose();
        ofSector.Dispose();
    }

    /// <inheritdoc/>
    protected override void DecryptPiece(Span<byte> sectors, long offsetBytes)
    {
        inner.Decrypt(sectors, offsetBytes);
        for (var at = 0; at < sectors.Length; at += SectorBytes)
        {
            var sector = sectors.Slice(at, SectorBytes);
            var words = MemoryMarshal.Cast<byte, uint>(sector);
            for (var cycle = 0; cycle < CyclesOfB; cycle++) GatherB(words);
            for (var cycle = 0; cycle < CyclesOfA; cycle++) GatherA(words);
            AddSectorKey(sector, offsetBytes + at);
        }
    }

    /// <inheritdoc/>
    protected override void EncryptPiece(Span<byte> sectors, long offsetBytes)
    {
        for (var at = 0; at < sectors.Length; at += SectorBytes)
        {
            var sector = sectors.Slice(at, SectorBytes);
            var words = MemoryMarshal.Cast<byte, uint>(sector);
            AddSectorKey(sector, offsetBytes + at);
            for (var cycle = 0; cycle < CyclesOfA; cycle++) SpreadA(words);
            for (var cycle = 0; cycle < CyclesOfB; cycle++) SpreadB(words);
        }

        inner.Encrypt(sectors, offsetBytes);
    }

    /// <summary>Read far more often than written, so four words at a time where nothing goes over the end.</summary>
    private static void GatherA(Span<uint> words)
    {
        for (var at = 0; at < Margin; at++)
            words[at] += Behind(words, at, 2) ^ BitOperations.RotateLeft(Behind(words, at, 5), TurnsOfA[at % 4]);
        for (var at = Margin; at < words.Length; at += 4)
        {
            words[at] += words[at - 2] ^ BitOperations.RotateLeft(words[at - 5], 9);
            words[at + 1] += words[at - 1] ^ words[at - 4];
            words[at + 2] += words[at] ^ BitOperations.RotateLeft(words[at - 3], 13);
            words[at + 3] += words[at + 1] ^ words[at - 2];
        }
    }

    private static void SpreadA(Span<uint> words)
    {
        for (var at = words.Length - 1; at >= 0; at--)
            words[at] -= Behind(words, at, 2) ^ BitOperations.RotateLeft(Behind(words, at, 5), TurnsOfA[at % 4]);
    }

    /// <inheritdoc cref="GatherA"/>
    private static void GatherB(Span<uint> words)
    {
        var end = words.Length - Margin;
        for (var at = 0; at < end; at += 4)
        {
            words[at] += words[at + 2] ^ words[at + 5];
            words[at + 1] += words[at + 3] ^ BitOperations.RotateLeft(words[at + 6], 10);
            words[at + 2] += words[at + 4] ^ words[at + 7];
            words[at + 3] += words[at + 5] ^ BitOperations.RotateLeft(words[at + 8], 25);
        }

        for (var at = end; at < words.Length; at++)
            words[at] += Ahead(words, at, 2) ^ BitOperations.RotateLeft(Ahead(words, at, 5), TurnsOfB[at % 4]);
    }

    private static void SpreadB(Span<uint> words)
    {
        for (var at = words.Length - 1; at >= 0; at--)
            words[at] -= Ahead(words, at, 2) ^ BitOperations.RotateLeft(Ahead(words, at, 5), TurnsOfB[at % 4]);
    }

    private static uint Behind(ReadOnlySpan<uint> words, int at, int by) => words[at >= by ? at - by : at - by + words.Length];

    private static uint Ahead(ReadOnlySpan<uint> words, int at, int by) =>
        words[at + by < words.Length ? at + by : at + by - words.Length];

    private void AddSectorKey(Span<byte> sector, long offsetBytes)
    {
        Span<byte> key = stackalloc byte[2 * AesBytes];
        key.Clear();
        BinaryPrimitives.WriteInt64LittleEndian(key, offsetBytes);
        BinaryPrimitives.WriteInt64LittleEndian(key[AesBytes..], offsetBytes);
        key[^1] = 0x80;
        ofSector.EncryptEcb(key, key, PaddingMode.None);
        var words = MemoryMarshal.Cast<byte, ulong>(sector);
        var own = MemoryMarshal.Cast<byte, ulong>(key);
        for (var at = 0; at < words.Length; at++) words[at] ^= own[at % own.Length];
    }
}
