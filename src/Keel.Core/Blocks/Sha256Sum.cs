using System.Buffers.Binary;

namespace Keel.Core.Blocks;

/// <summary>
/// SHA-256 (FIPS 180-4), made as the bytes come. The framework's own needs a library of the system, and ends the process where
/// that is not installed: the way back of a repair must not hang on it.
/// </summary>
internal sealed class Sha256Sum
{
    /// <summary>The length of a sum, in bytes.</summary>
    public const int Bytes = 32;

    private const int BlockBytes = 64, LengthAt = 56;

    /// <summary>The first 32 bits of the fractions of the cube roots of the first 64 primes (FIPS 180-4, 4.2.2).</summary>
    internal static readonly uint[] Constants =
    [
        0x428a2f98, 0x71374491, 0xb5c0fbcf, 0xe9b5dba5, 0x3956c25b, 0x59f111f1, 0x923f82a4, 0xab1c5ed5,
        0xd807aa98, 0x12835b01, 0x243185be, 0x550c7dc3, 0x72be5d74, 0x80deb1fe, 0x9bdc06a7, 0xc19bf174,
        0xe49b69c1, 0xefbe4786, 0x0fc19dc6, 0x240ca1cc, 0x2de92c6f, 0x4a7484aa, 0x5cb0a9dc, 0x76f988da,
        0x983e5152, 0xa831c66d, 0xb00327c8, 0xbf597fc7, 0xc6e00bf3, 0xd5a79147, 0x06ca6351, 0x14292967,
        0x27b70a85, 0x2e1b2138, 0x4d2c6dfc, 0x53380d13, 0x650a7354, 0x766a0abb, 0x81c2c92e, 0x92722c85,
        0xa2bfe8a1, 0xa81a664b, 0xc24b8b70, 0xc76c51a3, 0xd192e819, 0xd6990624, 0xf40e3585, 0x106aa070,
        0x19a4c116, 0x1e376c08, 0x2748774c, 0x34b0bcb5, 0x391c0cb3, 0x4ed8aa4a, 0x5b9cca4f, 0x682e6ff3,
        0x748f82ee, 0x78a5636f, 0x84c87814, 0x8cc70208, 0x90befffa, 0xa4506ceb, 0xbef9a3f7, 0xc67178f2
    ];

    /// <summary>The same of the square roots of the first eight (5.3.3): what a sum begins with.</summary>
    internal static readonly uint[] Start =
    [
        0x6a09e667, 0xbb67ae85, 0x3c6ef372, 0xa54ff53a, 0x510e527f, 0x9b05688c, 0x1f83d9ab, 0x5be0cd19
    ];

    private readonly uint[] state = [.. Start];
    private readonly byte[] block = new byte[BlockBytes];
    private long length;

    /// <summary>The sum of bytes that are there whole.</summary>
    public static byte[] Of(ReadOnlySpan<byte> bytes)
    {
        var sum = new Sha256Sum();
        sum.Add(bytes);
        return sum.Finish();
    }

    /// <summary>The sum with a key (HMAC, RFC 2104), of at most 64 bytes.</summary>
    public static byte[] WithKey(ReadOnlySpan<byte> key, ReadOnlySpan<byte> bytes)
    {
        Span<byte> inner = stackalloc byte[BlockBytes], outer = stackalloc byte[BlockBytes];
        for (var at = 0; at < BlockBytes; at++)
        {
            var part = at < key.Length ? key[at] : (byte)0;
            inner[at] = (byte)(part ^ 0x36);
            outer[at] = (byte)(part ^ 0x5C);
        }

        var sum = new Sha256Sum();
        sum.Add(inner);
        sum.Add(bytes);
        var over = new Sha256Sum();
        over.Add(outer);
        over.Add(sum.Finish());
        return over.Finish();
    }

    /// <summary>Adds bytes at the end.</summary>
    public void Add(ReadOnlySpan<byte> bytes)
    {
        while (bytes.Length > 0)
        {
            var at = (int)(length % BlockBytes);
            var count = Math.Min(BlockBytes - at, bytes.Length);
            bytes[..count].CopyTo(block.AsSpan(at));
            length += count;
            bytes = bytes[count..];
            if (length % BlockBytes == 0) TakeBlock();
        }
    }

    /// <summary>The sum of all that was added; nothing can be added after it.</summary>
    public byte[] Finish()
    {
        var bits = length * 8;
        Add([0x80]);
        while (length % BlockBytes != LengthAt) Add([0]);
        Span<byte> end = stackalloc byte[sizeof(long)];
        BinaryPrimitives.WriteInt64BigEndian(end, bits);
        Add(end);
        var sum = new byte[Bytes];
        for (var word = 0; word < state.Length; word++)
            BinaryPrimitives.WriteUInt32BigEndian(sum.AsSpan(word * sizeof(uint)), state[word]);
        return sum;
    }

    private void TakeBlock() => Sha256Block.Take(state, block);
}
